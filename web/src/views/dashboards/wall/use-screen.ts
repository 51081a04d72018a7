import { useEffect, useState } from "react";

/** The window's size, px; while it is looked at the screen is kept from going dark, where the browser can. */
export function useScreen(): { readonly width: number; readonly height: number } {
  const [size, setSize] = useState(() => ({ width: innerWidth, height: innerHeight }));
  useEffect(() => {
    const measure = () => setSize({ width: innerWidth, height: innerHeight });
    addEventListener("resize", measure);
    return () => removeEventListener("resize", measure);
  }, []);
  useEffect(() => {
    let lock: WakeLockSentinel | undefined;
    let gone = false;
    // A lock is lost whenever the page is hidden, and asked for again when it is seen.
    const hold = () => {
      if (document.visibilityState !== "visible") return;
      void navigator.wakeLock?.request("screen").then(
        (held) => (gone ? held.release() : void (lock = held)),
        () => {},
      );
    };
    hold();
    document.addEventListener("visibilitychange", hold);
    return () => {
      gone = true;
      document.removeEventListener("visibilitychange", hold);
      void lock?.release();
    };
  }, []);
  return size;
}
