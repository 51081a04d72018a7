import { useSyncExternalStore } from "react";

/** Narrower than what the style sheet calls small. */
const narrow = matchMedia("(width < 40rem)");

const listen = (tell: () => void): (() => void) => {
  narrow.addEventListener("change", tell);
  return () => narrow.removeEventListener("change", tell);
};

/** Whether the page is as narrow as a phone: of two layouts, only the one that is seen need be made. */
export const useIsPhone = (): boolean => useSyncExternalStore(listen, () => narrow.matches);
