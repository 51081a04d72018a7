import { useIsFetching } from "@tanstack/react-query";
import { useCallback, useEffect, useState } from "react";
import { flushSync } from "react-dom";
import { chartManager } from "../../../charts/chart-manager.ts";
import { themeInstead } from "../../../ui/theme.ts";

/** Nothing has been asked for so long: what is drawn is whole. */
const quietMs = 400;

/**
 * A dashboard as it goes to paper: laid out in pages and by day, printed when all of it is there; also where the
 * browser's own command prints it.
 */
export function usePaper(): { readonly isPaper: boolean; readonly print: () => void } {
  const [isPaper, setIsPaper] = useState(false);
  const [isAsked, setIsAsked] = useState(false);
  const fetching = useIsFetching({
    predicate: ({ queryKey, state }) => queryKey[0] === "reading" && state.data === undefined,
  });
  useEffect(() => {
    const before = () => {
      flushSync(() => setIsPaper(true));
      themeInstead("day");
      chartManager.drawAll();
    };
    const after = () => {
      themeInstead(null);
      setIsPaper(false);
    };
    addEventListener("beforeprint", before);
    addEventListener("afterprint", after);
    return () => {
      removeEventListener("beforeprint", before);
      removeEventListener("afterprint", after);
      themeInstead(null);
    };
  }, []);
  useEffect(() => {
    if (!isAsked || fetching > 0) return;
    const timer = setTimeout(() => {
      setIsAsked(false);
      window.print();
    }, quietMs);
    return () => clearTimeout(timer);
  }, [isAsked, fetching]);
  const print = useCallback(() => {
    themeInstead("day");
    setIsPaper(true);
    setIsAsked(true);
  }, []);
  return { isPaper, print };
}
