import { type ReactNode, useEffect, useRef } from "react";
import { drawsReading, type Tile, type TileKind, tileKinds } from "../../../../core/dashboards/dashboard.ts";
import { useTime } from "../../time/time-provider.tsx";
import { ReadingEditor } from "../../sentence/reading-editor.tsx";
import { withoutIdle } from "../../sentence/said.ts";
import { TypedInput } from "../../ui/typed-input.tsx";
import { useReading } from "../machine/use-reading.ts";
import { TileFrame } from "./tile-frame.tsx";

export const kindWords: Readonly<Record<TileKind, string>> = { lines: "lines", stacked: "areas on one another", bars: "bars", horizon: "horizon strips", heat: "heat map", number: "big number", table: "table", top: "top list", events: "events", note: "note" };
/** Of a miniature, px. */
const miniature = { width: 210, height: 120 } as const;

interface TileEditorProps {
  readonly tile: Tile;
  readonly onChange: (change: Partial<Omit<Tile, "id">>) => void;
  readonly onClose: () => void;
}

/** One tile: its title, its sentences, and how it is drawn, chosen among miniatures of its own data. Each change shows at once. */
export function TileEditor({ tile, onChange, onClose }: TileEditorProps): ReactNode {
  const { span } = useTime();
  const heading = useRef<HTMLHeadingElement>(null);
  useEffect(() => heading.current?.focus(), []);
  const answer = useReading(tile.reading ? withoutIdle(tile.reading) : nothing, span, 60);
  return (
    <section aria-label={`Change ${tile.title || "the tile"}`} className="my-3 border-l-2 border-act py-1 pl-4" data-tile-editor onKeyDown={(event) => event.key === "Escape" && event.target === event.currentTarget && onClose()}>
      <h2 ref={heading} tabIndex={-1} className="font-bold outline-none">The tile</h2>
      <div className="mt-2 flex flex-wrap gap-x-4 gap-y-2">
        <label>
          <span className="block text-[13px] text-quiet">Title</span>
          <TypedInput value={tile.title} maxLength={200} onType={(title) => onChange({ title })} className="w-72 max-w-full" />
        </label>
        <label className="grow">
          <span className="block text-[13px] text-quiet">What it is for</span>
          <TypedInput value={tile.description ?? ""} maxLength={2000} onType={(description) => onChange({ description })} className="w-full" />
        </label>
      </div>
      {tile.kind === "note" ? (
        <label className="mt-3 block">
          <span className="block text-[13px] text-quiet">Text</span>
          <textarea value={tile.text ?? ""} maxLength={20_000} onChange={(event) => onChange({ text: event.target.value })} className="h-28 w-full max-w-3xl border border-hairline bg-transparent p-2" />
        </label>
      ) : (
        tile.reading && drawsReading(tile.kind) && <div className="mt-2"><ReadingEditor reading={tile.reading} drawn={null} stepMs={answer.data?.stepMs} onChange={(reading) => onChange({ reading })} /></div>
      )}
      {tile.reading && drawsReading(tile.kind) && (
        <fieldset className="mt-3">
          <legend className="text-[13px] text-quiet">Drawn as</legend>
          <div className="flex flex-wrap gap-3">
            {tileKinds.filter(drawsReading).map((kind) => (
              <label key={kind} className={`block cursor-pointer border p-1.5 ${tile.kind === kind ? "border-act" : "border-hairline"}`} style={{ width: miniature.width }}>
                <span className="flex items-center gap-2 text-[13px]">
                  <input type="radio" name="kind" className="accent-act" checked={tile.kind === kind} onChange={() => onChange({ kind })} />
                  {kindWords[kind]}
                </span>
                <div inert aria-hidden="true" className="pointer-events-none mt-1 overflow-hidden" style={{ height: miniature.height }}>
                  <TileFrame tile={{ ...tile, kind, title: "" }} widthPx={miniature.width} heightPx={miniature.height} bare />
                </div>
              </label>
            ))}
          </div>
        </fieldset>
      )}
      <button type="button" className="act mt-3" onClick={onClose}>Back to all tiles</button>
    </section>
  );
}

const nothing = { sentences: { a: { counter: "none" } } };
