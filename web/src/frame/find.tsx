import { type ReactNode, Suspense, useEffect, useRef, useState } from "react";
import { lazyView } from "../ui/lazy-view.ts";

const FindList = lazyView(() => import("./find-list.tsx"), "FindList");

/** The field by which everything is found; `/` or Ctrl+K comes here. What looks is loaded when it is first wanted. */
export function Find(): ReactNode {
  const place = useRef<HTMLDivElement>(null);
  const [typed, setTyped] = useState("");
  const [isWanted, setIsWanted] = useState(false);
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      const typing = event.target instanceof HTMLElement && event.target.matches("input, textarea, select");
      const wanted =
        (event.key === "/" && !typing && !event.ctrlKey && !event.metaKey) ||
        (event.key === "k" && (event.ctrlKey || event.metaKey));
      if (!wanted) return;
      event.preventDefault();
      place.current?.querySelector("input")?.focus();
    };
    addEventListener("keydown", onKey);
    return () => removeEventListener("keydown", onKey);
  }, []);
  const field = (
    <input
      aria-label="Find"
      value={typed}
      onChange={(event) => setTyped(event.target.value)}
      onFocus={() => setIsWanted(true)}
      // biome-ignore lint/a11y/noAutofocus: it takes the place of the same field, which had the focus
      autoFocus={isWanted}
      placeholder="Find …  /"
      aria-keyshortcuts="/ Control+K"
      className="w-full"
    />
  );
  return (
    <div ref={place} className="w-16 focus-within:w-36 sm:w-36 lg:w-52">
      {isWanted ? (
        <Suspense fallback={field}>
          <FindList
            typed={typed}
            onLeave={() => {
              setTyped("");
              setIsWanted(false);
            }}
          />
        </Suspense>
      ) : (
        field
      )}
    </div>
  );
}
