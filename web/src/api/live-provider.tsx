import { useQueryClient } from "@tanstack/react-query";
import {
  createContext,
  type ReactNode,
  useCallback,
  useContext,
  useEffect,
  useState,
  useSyncExternalStore,
} from "react";
import { meQuery } from "./queries.ts";
import { type LiveMessage, type LiveStatus, LiveStream } from "./live-stream.ts";

const LiveContext = createContext<LiveStream | undefined>(undefined);

/**
 * Keeps one event stream open below it, and what incidents and reconnections change up to date. A hidden tab gives it
 * back unless `staysHidden`.
 */
export function LiveProvider({
  children,
  staysHidden,
}: {
  children: ReactNode;
  staysHidden: () => boolean;
}): ReactNode {
  const [stream] = useState(() => new LiveStream(staysHidden));
  const queries = useQueryClient();
  useEffect(() => {
    const off = stream.onMessage((message) => {
      if (message.kind === "back") void queries.invalidateQueries();
      if (message.kind === "event") void queries.invalidateQueries({ queryKey: ["events"] });
      if (message.kind === "recording") void queries.invalidateQueries({ queryKey: ["recordings"] });
      if (message.kind === "alerting")
        for (const part of ["alerting", "rules", "incidents", "quiet-times", "recipients", "sources", "machines"])
          void queries.invalidateQueries({ queryKey: [part] });
      if (
        message.kind === "raised" ||
        message.kind === "worsened" ||
        message.kind === "eased" ||
        message.kind === "cleared"
      ) {
        void queries.invalidateQueries({ queryKey: ["rules"] });
        void queries.invalidateQueries({ queryKey: ["incidents"] });
        void queries.invalidateQueries({ queryKey: ["briefing"] });
      }
    });
    // The stream ends with the session as well: whether it was that is asked at once.
    const offStatus = stream.onStatus(() => {
      if (stream.status.kind === "lost") void queries.invalidateQueries({ queryKey: meQuery.queryKey });
    });
    stream.start();
    return () => {
      off();
      offStatus();
      stream.stop();
    };
  }, [stream, queries]);
  return <LiveContext value={stream}>{children}</LiveContext>;
}

function useStream(): LiveStream {
  const stream = useContext(LiveContext);
  if (!stream) throw new Error("useLive needs a LiveProvider above it");
  return stream;
}

export function useLiveStatus(): LiveStatus {
  const stream = useStream();
  return useSyncExternalStore(stream.onStatus, () => stream.status);
}

/** Calls `listener` with each message while mounted; it should be stable. */
export function useLiveMessages(listener: (message: LiveMessage) => void): void {
  const stream = useStream();
  useEffect(() => stream.onMessage(listener), [stream, listener]);
}

/** Has a listener called whenever samples were stored; gives what ends it. */
export function useOnSamples(): (listener: () => void) => () => void {
  const stream = useStream();
  return useCallback((listener) => stream.onMessage((message) => message.kind === "samples" && listener()), [stream]);
}
