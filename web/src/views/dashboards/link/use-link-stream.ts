import { apiAddress } from "../../../api/base-path.ts";
import { useCallback, useEffect, useRef } from "react";
import { livePath } from "../../../../../core/api/live.ts";
import { linkHeader } from "../../../../../core/api/links.ts";

const againMs = 3000;

/**
 * Hears by a link when samples were stored, and calls `ended` when the stream ends: the link may have been revoked.
 * Answers how to listen.
 */
export function useLinkStream(secret: string, ended: () => void): (listener: () => void) => () => void {
  const listeners = useRef(new Set<() => void>());
  useEffect(() => {
    const gone = new AbortController();
    const hear = async () => {
      while (!gone.signal.aborted) {
        try {
          const { body, ok, status } = await fetch(apiAddress(livePath), {
            headers: { [linkHeader]: secret },
            credentials: "omit",
            signal: gone.signal,
          });
          if (status === 401) return ended(); // the link is no more: nothing is asked again
          const reader = body?.getReader();
          for (let part = await reader?.read(); ok && part && !part.done; part = await reader?.read())
            for (const listener of listeners.current) listener();
        } catch {
          // the server is away, or the page is left: asked again below, or not at all
        }
        if (gone.signal.aborted) return;
        ended();
        await new Promise((again) => setTimeout(again, againMs));
      }
    };
    void hear();
    return () => gone.abort();
  }, [secret, ended]);
  return useCallback((listener) => {
    listeners.current.add(listener);
    return () => listeners.current.delete(listener);
  }, []);
}
