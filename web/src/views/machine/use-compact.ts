import { useState } from "react";

const place = "nubrel.machine.compact";

/** Whether bands stand side by side, as this browser was told last. */
export function useCompact(): readonly [boolean, (isCompact: boolean) => void] {
  const [isCompact, setCompact] = useState(() => {
    try {
      return localStorage.getItem(place) === "yes";
    } catch {
      return false;
    }
  });
  return [
    isCompact,
    (next) => {
      setCompact(next);
      try {
        localStorage.setItem(place, next ? "yes" : "no");
      } catch {
        // It holds until the page is left.
      }
    },
  ];
}
