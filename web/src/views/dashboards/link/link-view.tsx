import { ViewTitle } from "../../../ui/view-title.tsx";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { type ReactNode, useCallback, useEffect } from "react";
import { useSearchParts } from "../../../ui/use-search-parts.ts";
import type { Shared } from "../../../../../core/api/links.ts";
import { RequestFailed } from "../../../api/client.ts";
import { sharedQuery } from "../../../api/queries.ts";
import { momentText, spanText } from "../../../time/moments.ts";
import { TimeProvider, useTime } from "../../../time/time-provider.tsx";
import { searchWithWindow, type TimeWindow } from "../../../time/time-window.ts";
import { PickersBar } from "../pickers-bar.tsx";
import { PicksProvider } from "../picks-provider.tsx";
import { TileGrid } from "../tile-grid.tsx";
import { useLinkStream } from "./use-link-stream.ts";

/** A look a minute at whether it is still open, should the stream not tell. */
const lookMs = 60_000;
const shownEveryMs = 5000;

/** What somebody sees who has a link: one dashboard, or one tile of it, and its time. */
export function LinkView({ secret }: { secret: string }): ReactNode {
  const queries = useQueryClient();
  const shared = useQuery({
    ...sharedQuery,
    refetchInterval: ({ state }) => (state.error ? false : lookMs),
  });
  const look = useCallback(() => void queries.invalidateQueries({ queryKey: sharedQuery.queryKey }), [queries]);
  const onSamples = useLinkStream(secret, look);
  if (shared.error instanceof RequestFailed && !shared.error.isAway)
    return (
      <main className="mx-auto max-w-md px-6 pt-[12vh]">
        <ViewTitle words="This link opens nothing" className="text-2xl font-bold" />
        <p role="alert" className="mt-3">
          {shared.error.message}
        </p>
      </main>
    );
  if (!shared.data) return <p className="p-8 text-quiet">{shared.error?.message ?? "opening …"}</p>;
  return (
    <TimeProvider onSamples={onSamples}>
      <Shown shared={shared.data} />
    </TimeProvider>
  );
}

const windowOf = ({ window }: Shared): TimeWindow =>
  "last" in window
    ? { kind: "following", lengthMs: window.last * 1000, everyMs: shownEveryMs }
    : { kind: "fixed", fromMs: window.from, toMs: window.to };

function Shown({ shared }: { shared: Shared }): ReactNode {
  const { document, name, until, window } = shared;
  const { nowMs, span } = useTime();
  const [search, setSearch] = useSearchParts();
  const begin = JSON.stringify(windowOf(shared));
  const says = search.has("from") || search.has("last");
  useEffect(() => {
    if (!says) setSearch((before) => searchWithWindow(before, JSON.parse(begin) as TimeWindow), { replace: true });
  }, [says, begin, setSearch]);
  const whole = () => setSearch((before) => searchWithWindow(before, windowOf(shared)));
  const text = spanText(span.fromMs, span.toMs);
  if (!says) return null;
  const { toMs, fromMs } = span;
  const isWhole =
    "last" in window
      ? Math.abs(toMs - fromMs - window.last * 1000) < 1000
      : fromMs === window.from && toMs === window.to;
  return (
    <PicksProvider document={document}>
      <main className="mx-auto max-w-[1900px] px-4 pt-5 pb-10 sm:px-7">
        <header className="mb-4 flex flex-wrap items-baseline gap-x-5 gap-y-1 border-b border-ink pb-3">
          <ViewTitle words={name || document.title} className="text-[26px] leading-none font-bold break-words" />
          <p className="text-quiet">
            {text.day}, <span className="moment">{text.from}</span> to <span className="moment">{text.to}</span>
            {!isWhole && (
              <button type="button" className="word-link ml-3" onClick={whole}>
                all of it
              </button>
            )}
          </p>
          {until !== null && (
            <p className="ml-auto text-[14px] text-quiet">
              shown until <span className="moment">{momentText(Date.parse(until), nowMs)}</span>
            </p>
          )}
        </header>
        <PickersBar />
        {document.tiles.length === 0 ? (
          <p className="text-quiet">It has no tiles yet.</p>
        ) : (
          <TileGrid tiles={document.tiles} />
        )}
      </main>
    </PicksProvider>
  );
}
