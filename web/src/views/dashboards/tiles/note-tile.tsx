import { lazy, type ReactNode, Suspense } from "react";
import type { Tile } from "../../../../../core/dashboards/dashboard.ts";
import { type NoteFigure, noteParts } from "../../../../../core/dashboards/note-parts.ts";
import type { Picks } from "../../../../../core/dashboards/pickers.ts";
import { figureOfLine, shownWords } from "../../../../../core/dashboards/shown-figures.ts";
import { sentenceText } from "../../../../../core/reading/sentence-words.ts";
import { Quantity } from "../../../ui/quantity.tsx";
import { type TileData, useTile } from "./use-tile.ts";

/** Markdown is read by a library that only notes need. */
const NoteText = lazy(() => import("./note-text.tsx"));
const points = 120;

/** A note: Markdown, with live figures of its own sentences in it, each telling how it is made. */
export function NoteTile({ tile, picks }: { tile: Tile; picks: Picks }): ReactNode {
  const data = useTile(tile, picks, points);
  return (
    // biome-ignore lint/a11y/noNoninteractiveTabindex: what scrolls must be reached by keys
    <div className="h-full overflow-auto" tabIndex={0} role="group" aria-label={tile.title || "note"} data-note>
      {data.error && (
        <p role="alert" className="text-[13px] text-urgent">
          {data.error.message}
        </p>
      )}
      <Suspense fallback={<p className="whitespace-pre-wrap">{tile.text}</p>}>
        <NoteText
          text={tile.text ?? ""}
          split={(text) => noteParts(text)}
          figure={(figure) => <LiveFigure figure={figure} tile={tile} data={data} />}
        />
      </Suspense>
    </div>
  );
}

function LiveFigure({
  figure: { name, shows, isPercent },
  tile,
  data,
}: {
  figure: NoteFigure;
  tile: Tile;
  data: TileData;
}): ReactNode {
  const sentence = tile.reading?.sentences[name];
  if (!sentence && !(name === "figure" && tile.reading?.figure))
    return <span className="text-notice" title={`This note has no sentence named ${name}`}>{`{${name}?}`}</span>;
  const line = data.answer?.lines.find(({ of, earlier }) => of === name && earlier === undefined);
  const value = line ? figureOfLine(line, shows) : null;
  const isShare = isPercent && line?.unit === "1";
  const formula = sentence ? sentenceText(sentence, { words: sentence.counter }) : (tile.reading?.figure ?? "");
  return (
    <strong className="font-normal" title={`${shownWords[shows]}: ${formula}`} data-live-figure={name}>
      {data.answer || data.error ? (
        <Quantity
          value={line && value !== null ? value * (isShare ? 100 : 1) : null}
          unit={isShare ? "%" : (line?.unit ?? "1")}
        />
      ) : (
        "…"
      )}
    </strong>
  );
}
