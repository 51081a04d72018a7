import { May } from "../../shared/people/may.tsx";
import { findDifferences } from "../../../../core/api/differences.ts";
import { useMay } from "../../shared/people/use-may.ts";
import { getDensity } from "../../../../core/api/readings.ts";
import { SectionLink } from "../../time/section-link.tsx";
import { useQuery } from "@tanstack/react-query";
import { type ReactNode, useEffect, useMemo, useRef, useState } from "react";
import { densityQuery, eventsQuery, incidentsQuery } from "../../api/queries.ts";
import { RailStrip } from "./rail-strip.tsx";
import { spanText } from "../../time/moments.ts";
import { pannedRail, type RailChoice, railStretch, defaultRailMs, zoomedRail } from "../../time/rail-stretch.ts";
import { useKeys } from "../shortcuts.ts";
import { useTime } from "../../time/time-provider.tsx";
import { lengths, narrowed, refreshes, type Span, stepped, type TimeWindow, widened } from "../../time/time-window.ts";

/**
 * The only control of time: lengths in words, the window, following now, steps and undo; and the strip that carries
 * what was gathered.
 */
export function TimeRail(): ReactNode {
  const { window, span, nowMs, change, undo, canUndo } = useTime();
  const [chosen, setChosen] = useState<RailChoice | null>(null);
  // A window that is chosen somewhere else takes the rail back to it.
  const shownWindow = useRef(window);
  useEffect(() => {
    if (shownWindow.current === window) return;
    shownWindow.current = window;
    setChosen((before) =>
      before === null || before.toMs === null || contains(railStretch(before, span, nowMs), span)
        ? before
        : { ...before, toMs: null },
    );
  }, [window, span, nowMs]);
  const gatheredFromMs = useGatheredFrom(nowMs);
  const choice = chosen ?? { lengthMs: defaultRailMs(span, nowMs, gatheredFromMs), toMs: null };
  const { fromMs: railFrom, toMs: railTo } = railStretch(choice, span, nowMs);
  const rail = useMemo(() => ({ fromMs: railFrom, toMs: railTo }), [railFrom, railTo]);
  const may = useMay();
  const density = useQuery({ ...densityQuery(rail.fromMs, rail.toMs), enabled: may(getDensity) });
  const incidents = useQuery(incidentsQuery(rail.fromMs, rail.toMs));
  const events = useQuery(eventsQuery(rail.fromMs, rail.toMs));
  const text = spanText(span.fromMs, span.toMs);
  const following = window.kind === "following";
  const chosenLength = span.toMs - span.fromMs;
  const everyMs = following ? window.everyMs : 5000;
  const follow = (lengthMs: number, every = everyMs): TimeWindow => ({ kind: "following", lengthMs, everyMs: every });
  const [isOpen, setIsOpen] = useState(false);
  const back = () => change((shown) => stepped(shown.span, -1, shown.nowMs));
  // What follows now has nothing after it.
  const forth = () =>
    change((shown) => (shown.window.kind === "following" ? shown.window : stepped(shown.span, 1, shown.nowMs)));
  const wider = () => change((shown) => widened(shown.span, shown.nowMs));
  const followNow = () => change((shown) => follow(shown.span.toMs - shown.span.fromMs));
  const keys: Readonly<Record<string, () => void>> = {
    ...Object.fromEntries(lengths.map(([, ms], i) => [String(i + 1), () => change(follow(ms))])),
    "[": back,
    "]": forth,
    w: wider,
    e: () => change((shown) => narrowed(shown.span)),
    u: undo,
    n: followNow,
    "+": () => setChosen(zoomedRail(rail, middle(span), -1, nowMs)),
    "-": () => setChosen(zoomedRail(rail, middle(span), 1, nowMs)),
    "<": () => setChosen(pannedRail(rail, -0.5, nowMs)),
    ">": () => setChosen(pannedRail(rail, 0.5, nowMs)),
  };
  useKeys((key) => {
    const run = keys[key];
    run?.();
    return run !== undefined;
  });
  // On a phone one line stands there, and the rest when it is wanted.
  const inTurn = isOpen ? "" : "max-sm:hidden";
  return (
    <footer className="not-in-print fixed inset-x-0 bottom-0 z-20 border-t border-ink bg-paper px-4 pt-1.5 pb-1 sm:px-7">
      <div className="flex items-center gap-x-4 gap-y-1 whitespace-nowrap pb-0.5 max-sm:flex-wrap sm:overflow-x-auto">
        <fieldset className={`flex gap-3 max-sm:w-full max-sm:overflow-x-auto ${inTurn}`}>
          <legend className="sr-only">Length of the window</legend>
          {lengths.map(([words, ms]) => {
            const on = Math.abs(chosenLength - ms) < 1000;
            return (
              <button
                key={ms}
                type="button"
                aria-pressed={on}
                onClick={() => change(follow(ms))}
                className={on ? "border-b-2 border-act font-bold text-act" : "text-quiet hover:text-ink"}
              >
                {words}
              </button>
            );
          })}
        </fieldset>
        <p className="text-quiet max-sm:order-first" data-window>
          {text.day} <span className="moment font-bold text-ink">{text.from}</span> to{" "}
          <span className="moment font-bold text-ink">{text.to}</span>
        </p>
        <button
          type="button"
          className="word-link ml-auto max-sm:order-first sm:hidden"
          aria-expanded={isOpen}
          onClick={() => setIsOpen(!isOpen)}
        >
          {isOpen ? "less" : "other times"}
        </button>
        <May ask={findDifferences}>
          <SectionLink to="/differences" className={`word-link ${inTurn}`}>
            what differed
          </SectionLink>
        </May>
        <div className={`flex items-center gap-4 max-sm:flex-wrap sm:ml-auto ${inTurn}`}>
          <button type="button" className="word-link" onClick={back}>
            back
          </button>
          <button type="button" className="word-link" disabled={following} onClick={forth}>
            forth
          </button>
          <button type="button" className="word-link" onClick={wider}>
            wider
          </button>
          <button type="button" className="word-link" disabled={!canUndo} onClick={undo}>
            undo
          </button>
          {following ? (
            <span className="flex items-center gap-1.5 font-semibold text-act">
              <svg width="8" height="8" aria-hidden="true">
                <circle cx="4" cy="4" r="4" fill="var(--act)" />
              </svg>
              <label className="flex items-center gap-1.5">
                following now, every
                <select
                  className="part"
                  value={everyMs}
                  onChange={(event) => change(follow(window.lengthMs, Number(event.target.value)))}
                >
                  {refreshes.map(([words, ms]) => (
                    <option key={ms} value={ms}>
                      {words}
                    </option>
                  ))}
                </select>
              </label>
            </span>
          ) : (
            <button type="button" className="act-plain !px-2 !py-0" onClick={followNow}>
              follow now
            </button>
          )}
        </div>
      </div>
      <div className={inTurn}>
        <RailStrip
          rail={rail}
          span={span}
          nowMs={nowMs}
          density={density.data}
          incidents={incidents.data ?? []}
          events={events.data ?? []}
          onChange={change}
          onRail={setChosen}
        />
      </div>
    </footer>
  );
}

const contains = (outer: Span, inner: Span) => inner.fromMs >= outer.fromMs && inner.toMs <= outer.toMs;
const middle = ({ fromMs, toMs }: Span) => (fromMs + toMs) / 2;

/** Since when there is something, at most thirty days back; null while that is not known. */
function useGatheredFrom(nowMs: number): number | null {
  const hour = 3_600_000;
  const to = Math.ceil(nowMs / hour) * hour;
  const mayLook = useMay()(getDensity);
  const density = useQuery({ ...densityQuery(to - 720 * hour, to), staleTime: hour, enabled: mayLook }).data;
  if (!density) return null;
  const first = density.counts.findIndex((count) => count > 0);
  return first < 0 ? nowMs : density.from + first * density.stepMs;
}
