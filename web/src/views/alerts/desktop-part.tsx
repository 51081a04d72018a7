import { type ReactNode, useState } from "react";
import { desktopWish, setDesktopWish } from "../../frame/desktop-notifications.ts";

/** Notices of this browser: shown by the system where another program is in front, and a sound where it is wanted. */
export function DesktopNotifications(): ReactNode {
  const [wish, setWish] = useState(desktopWish);
  const [refused, setRefused] = useState(false);
  const take = (next: typeof wish) => {
    setDesktopWish(next);
    setWish(next);
  };
  const askFor = async () => {
    if (typeof Notification === "undefined") return setRefused(true);
    const answer = await Notification.requestPermission();
    setRefused(answer !== "granted");
    if (answer === "granted") take({ ...wish, isShown: true });
  };
  return (
    <p className="flex flex-wrap items-center gap-x-6 border-t border-hairline py-2" data-desktop>
      <span className="font-semibold">This browser</span>
      <label className="flex items-center gap-2">
        <input
          type="checkbox"
          className="accent-act"
          checked={wish.isShown}
          onChange={(event) => (event.target.checked ? void askFor() : take({ ...wish, isShown: false }))}
        />
        notices of the system, also while another window is in front
      </label>
      <label className="flex items-center gap-2">
        <input
          type="checkbox"
          className="accent-act"
          checked={wish.isHeard}
          onChange={(event) => take({ ...wish, isHeard: event.target.checked })}
        />
        a sound
      </label>
      {refused && (
        <span role="alert" className="text-[13px] text-notice">
          This browser does not let this page show notices; it can be allowed in the browser's settings for this
          address.
        </span>
      )}
    </p>
  );
}
