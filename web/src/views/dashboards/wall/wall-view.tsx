import { ViewTitle } from "../../../ui/view-title.tsx";
import { useQueries } from "@tanstack/react-query";
import { type ReactNode, useCallback, useEffect, useState } from "react";
import { useNavigate } from "react-router";
import { useSearchParts } from "../../../ui/use-search-parts.ts";
import type { Dashboard } from "../../../../../core/dashboards/dashboard.ts";
import { readyMade } from "../../../../../core/dashboards/ready-made.ts";
import { tilePages } from "../../../../../core/dashboards/tile-pages.ts";
import { isNightHour, wallShift } from "../../../../../core/dashboards/wall.ts";
import { dashboardQuery } from "../../../api/queries.ts";
import { useKeys } from "../../../frame/shortcuts.ts";
import { themeInstead } from "../../../ui/theme.ts";
import { clockTime, dayWithName } from "../../../time/moments.ts";
import { useTime } from "../../../time/time-provider.tsx";
import { searchWithWindow } from "../../../time/time-window.ts";
import { PicksProvider } from "../picks-provider.tsx";
import { useShownTiles } from "../shown-tiles.ts";
import { gapPx, rowPx, spanPx, TileSheet } from "../tile-sheet.tsx";
import { useScreen } from "./use-screen.ts";
import { wallFromSearch } from "./wall-address.ts";

/** Of a page this wide everything has its usual size; a wider screen shows it larger. */
const plainWidthPx = 1280;
/** Read from across a room. */
const largest = 2.4;
const edgePx = 24;
const headPx = 56;
const leastRowPx = 26;
const hintMs = 4000;

/**
 * A screen on a wall: chosen dashboards in turn, page by page, large, by night theme at its hours, with nothing that
 * burns in.
 */
export function WallView(): ReactNode {
  const [search] = useSearchParts();
  const wall = wallFromSearch(search);
  const answers = useQueries({
    queries: wall.show
      .filter((one) => /^\d+$/.test(one))
      .map((id) => ({ ...dashboardQuery(Number(id)), refetchInterval: 60_000 })),
  });
  const own = new Map(answers.flatMap(({ data }) => (data ? [[String(data.id), data.document] as const] : [])));
  const documents = wall.show.flatMap(
    (one) => own.get(one) ?? readyMade.find(({ id }) => `ready:${id}` === one)?.document ?? [],
  );
  const [at, setAt] = useState(0);
  const [isHeld, setIsHeld] = useState(false);
  const turn = useCallback((by: 1 | -1) => setAt((before) => before + by), []);
  const minute = useMinute();
  const theme = wall.night ? (isNightHour(wall.night, new Date(minute).getHours()) ? "night" : "day") : null;
  useEffect(() => {
    themeInstead(theme);
    return () => themeInstead(null);
  }, [theme]);
  const shift = wallShift(minute);
  if (documents.length === 0) {
    const failed = answers.find(({ error }) => error)?.error;
    return (
      <p className="p-10 text-[20px]">
        {wall.show.length === 0 ? "No dashboard was chosen for this wall." : (failed?.message ?? "opening …")}
      </p>
    );
  }
  const index = ((at % documents.length) + documents.length) % documents.length;
  const document = documents[index] as Dashboard;
  return (
    <div style={{ transform: `translate(${shift.x}px, ${shift.y}px)` }} data-wall={document.title}>
      <PicksProvider document={document} key={index}>
        <WallBoard
          document={document}
          everySeconds={wall.everySeconds}
          isHeld={isHeld}
          alone={documents.length === 1}
          onTurn={turn}
          onHold={() => setIsHeld(!isHeld)}
        />
      </PicksProvider>
    </div>
  );
}

interface WallBoardProps {
  readonly document: Dashboard;
  readonly everySeconds: number;
  readonly isHeld: boolean;
  /** The only one of this wall. */
  readonly alone: boolean;
  readonly onTurn: (by: 1 | -1) => void;
  readonly onHold: () => void;
}

/** One dashboard, a page after the other; after its last page it is the next one's turn. */
function WallBoard({ document, everySeconds, isHeld, alone, onTurn, onHold }: WallBoardProps): ReactNode {
  const { nowMs } = useTime();
  const [, setSearch] = useSearchParts();
  const navigate = useNavigate();
  const screen = useScreen();
  const [page, setPage] = useState(0);
  const [hintUntil, setHintUntil] = useState(0);
  const { shown, picksOf } = useShownTiles(document.tiles);
  const { start } = document;
  useEffect(() => {
    if (start)
      setSearch(
        (before) =>
          searchWithWindow(before, {
            kind: "following",
            lengthMs: start.lastSeconds * 1000,
            everyMs: start.everySeconds * 1000,
          }),
        { replace: true },
      );
  }, [start, setSearch]);

  const larger = Math.min(largest, Math.max(1, screen.width / plainWidthPx));
  const widthPx = screen.width / larger - 2 * edgePx;
  const roomPx = screen.height / larger - headPx - 2 * edgePx;
  const pages = tilePages(shown, Math.max(4, Math.floor((roomPx + gapPx) / (rowPx + gapPx))));
  const now = pages[Math.min(page, pages.length - 1)];
  const further = useCallback(
    (by: 1 | -1) => {
      const next = page + by;
      if (next >= 0 && next < pages.length) setPage(next);
      else {
        setPage(0);
        onTurn(by);
      }
    },
    [page, pages.length, onTurn],
  );
  useEffect(() => {
    if (isHeld || (alone && pages.length < 2)) return;
    const timer = setTimeout(() => further(1), everySeconds * 1000);
    return () => clearTimeout(timer);
  }, [isHeld, everySeconds, further, alone, pages.length]);
  useEffect(() => {
    const move = () => setHintUntil(Date.now() + hintMs);
    addEventListener("pointermove", move);
    return () => removeEventListener("pointermove", move);
  }, []);
  useKeys((key) => {
    if (key === "ArrowRight" || key === "ArrowLeft") further(key === "ArrowRight" ? 1 : -1);
    else if (key === " ") onHold();
    else if (key === "f") toggleFullScreen();
    else if (key === "Escape") void navigate("/dashboards");
    else return false;
    return true;
  });
  const rows = now ? now.rows : 1;
  const row = Math.max(leastRowPx, Math.floor((roomPx + gapPx) / rows) - gapPx);
  return (
    <main
      style={{ zoom: larger, padding: edgePx, minHeight: screen.height / larger }}
      data-page={`${page + 1} of ${pages.length}`}
    >
      <header className="flex items-baseline gap-6" style={{ height: headPx - 8 }}>
        <ViewTitle words={document.title} className="min-w-0 truncate text-[28px] leading-none font-bold" />
        {pages.length > 1 && (
          <p className="text-quiet">
            {page + 1} of {pages.length}
          </p>
        )}
        {isHeld && <p className="text-notice">held</p>}
        <p className="figure ml-auto text-[24px] whitespace-nowrap">
          <span className="mr-4 text-[15px] text-quiet">{dayWithName(nowMs)}</span>
          {clockTime(nowMs)}
        </p>
      </header>
      {now ? (
        <TileSheet
          tiles={now.tiles}
          picksOf={picksOf}
          widthPx={widthPx}
          rowPx={Math.min(row, spanPx(2, rowPx))}
          isWhole
        />
      ) : (
        <p>It has no tiles yet.</p>
      )}
      {hintUntil > nowMs && (
        <p className="fixed inset-x-0 bottom-3 flex justify-center gap-6 text-[13px] text-quiet">
          <button type="button" className="word-link" onClick={() => further(-1)}>
            before (←)
          </button>
          <button type="button" className="word-link" onClick={() => further(1)}>
            next (→)
          </button>
          <button type="button" className="word-link" aria-pressed={isHeld} onClick={onHold}>
            {isHeld ? "go on (space)" : "hold (space)"}
          </button>
          <button type="button" className="word-link" onClick={toggleFullScreen}>
            whole screen (f)
          </button>
          <button type="button" className="word-link" onClick={() => void navigate("/dashboards")}>
            leave (Esc)
          </button>
        </p>
      )}
    </main>
  );
}

function toggleFullScreen(): void {
  void (
    window.document.fullscreenElement
      ? window.document.exitFullscreen()
      : window.document.documentElement.requestFullscreen()
  ).catch(() => {});
}

/** Now, by the minute. */
function useMinute(): number {
  const [minute, setMinute] = useState(Date.now);
  useEffect(() => {
    const timer = setInterval(() => setMinute(Date.now()), 60_000);
    return () => clearInterval(timer);
  }, []);
  return minute;
}
