import type { ReactNode } from "react";
import type { Dashboard } from "../../../../../core/dashboards/dashboard.ts";
import { pickerTitle, pickWords } from "../../../../../core/dashboards/pickers.ts";
import { tilePages } from "../../../../../core/dashboards/tile-pages.ts";
import { dayWithName, exactClockTime, spanText } from "../../../time/moments.ts";
import { useTime } from "../../../time/time-provider.tsx";
import { usePicks } from "../picks-provider.tsx";
import { useShownTiles } from "../shown-tiles.ts";
import { gapPx, rowPx, spanPx, TileSheet } from "../tile-sheet.tsx";

/** A4 lying (ISO 216: 297 mm × 210 mm) within margins of 12 mm, at 96 px an inch, rounded down. */
const paperWidthPx = 1030;
const mostRows = 12;

/** A dashboard in pages: what it is and of which time at the head of each, and which page it is. */
export function PaperPages({ document }: { document: Dashboard }): ReactNode {
  const { span, nowMs } = useTime();
  const { pickers, picks, choices } = usePicks();
  const { shown, picksOf } = useShownTiles(document.tiles);
  const pages = tilePages(shown, mostRows);
  const { day, from, to } = spanText(span.fromMs, span.toMs);
  const picked = pickers.map(
    (picker) => `${pickerTitle(picker)} ${pickWords(picker, picks[picker.id] ?? [], choices(picker).length)}`,
  );
  return (
    <div className="paper-pages" data-paper={pages.length}>
      {pages.map(({ tiles, rows }, i) => (
        <section
          key={tiles[0]?.id ?? i}
          className="paper-page flex flex-col"
          style={{ width: paperWidthPx }}
          aria-label={`page ${i + 1}`}
        >
          <header className="mb-2 flex items-baseline gap-5 border-b border-ink pb-1.5">
            <h1 className={i === 0 ? "text-[22px] font-bold" : "text-[15px] font-bold"}>{document.title}</h1>
            <p className="text-[13px] text-quiet">
              {[i === 0 && document.description, ...picked].filter(Boolean).join(" · ")}
            </p>
            <p className="ml-auto text-[13px] whitespace-nowrap">
              {day} <span className="moment">{from}</span> to <span className="moment">{to}</span>
            </p>
          </header>
          <TileSheet
            tiles={tiles}
            picksOf={picksOf}
            widthPx={paperWidthPx}
            rowPx={rows <= mostRows ? rowPx : Math.floor((spanPx(mostRows, rowPx) + gapPx) / rows) - gapPx}
            isWhole
          />
          <footer className="mt-auto flex justify-between pt-2 text-[11.5px] text-quiet">
            <span>
              Nubrel, printed {dayWithName(nowMs)} {exactClockTime(nowMs)}
            </span>
            <span>
              {i + 1} of {pages.length}
            </span>
          </footer>
        </section>
      ))}
    </div>
  );
}
