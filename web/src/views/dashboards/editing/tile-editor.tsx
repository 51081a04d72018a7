import { type ReactNode, useEffect, useRef } from "react";
import type { Tile } from "../../../../../core/dashboards/dashboard.ts";
import {
  drawsReading,
  drawsTime,
  readsItself,
  tileKindNames,
  tileKinds,
} from "../../../../../core/dashboards/tile-kinds.ts";
import { pickerTitle } from "../../../../../core/dashboards/pickers.ts";
import { SelectPart } from "../../../sentence/select-part.tsx";
import { TypedInput } from "../../../ui/typed-input.tsx";
import { usePicks } from "../picks-provider.tsx";
import { TileFrame } from "../tiles/tile-frame.tsx";
import { useTile } from "../tiles/use-tile.ts";
import { DataPart } from "./data-part.tsx";
import { LimitsForm, StatesForm } from "./limits-form.tsx";
import { LookForm } from "./look-form.tsx";
import { changedBy, type TileChange } from "./tile-change.ts";

/** Of a miniature, px. */
const miniature = { width: 210, height: 120 } as const;
const previewPx = { width: 720, height: 260 } as const;
const lookPoints = 60;

interface TileEditorProps {
  readonly tile: Tile;
  readonly onChange: (tile: Tile) => void;
  readonly onClose: () => void;
}

/**
 * One tile: its title, what feeds it, and how it is drawn, chosen among miniatures of its own data. Each change shows
 * at once.
 */
export function TileEditor({ tile, onChange, onClose }: TileEditorProps): ReactNode {
  const { picks } = usePicks();
  const { draws } = tileKinds[tile.kind];
  const isOwn = readsItself(tile.kind);
  const heading = useRef<HTMLHeadingElement>(null);
  useEffect(() => heading.current?.focus(), []);
  const data = useTile(tile, picks, lookPoints);
  const set = (change: TileChange) => onChange(changedBy(tile, change));
  const hasData = tile.reading !== undefined || tile.table !== undefined;
  const hasTimes = tile.reading !== undefined || (tile.table?.columns.some(({ kind }) => kind === "time") ?? false);
  const kinds = tileKindNames.filter((kind) => drawsReading(kind) && (hasTimes || !drawsTime(kind)));
  return (
    <section
      aria-label={`Change ${tile.title || "the tile"}`}
      className="my-3 border-l-2 border-act py-1 pl-4"
      data-tile-editor
      onKeyDown={(event) => event.key === "Escape" && event.target === event.currentTarget && onClose()}
    >
      <h2 ref={heading} tabIndex={-1} className="font-bold outline-none">
        The tile
      </h2>
      <div className="mt-2 flex flex-wrap gap-x-4 gap-y-2">
        <label>
          <span className="block text-[13px] text-quiet">Title</span>
          <TypedInput
            value={tile.title}
            maxLength={200}
            onType={(title) => set({ title })}
            className="w-72 max-w-full"
          />
        </label>
        <label className="grow">
          <span className="block text-[13px] text-quiet">What it is for</span>
          <TypedInput
            value={tile.description ?? ""}
            maxLength={2000}
            onType={(description) => set({ description })}
            className="w-full"
          />
        </label>
      </div>
      {draws === "text" && (
        <label className="mt-3 block">
          <span className="block text-[13px] text-quiet">
            Text, in Markdown. {"{name}"} is the live figure of the sentence with that name, {"{name highest}"} its
            highest; also first, lowest, mean, sum, last
          </span>
          <textarea
            value={tile.text ?? ""}
            maxLength={20_000}
            onChange={(event) => set({ text: event.target.value })}
            className="h-28 w-full max-w-3xl border border-hairline bg-transparent p-2"
          />
        </label>
      )}
      {!isOwn && <DataPart tile={tile} stepMs={data.answer?.stepMs} figures={data.figures} onChange={set} />}
      {hasData && drawsReading(tile.kind) && (
        <fieldset className="mt-3">
          <legend className="text-[13px] text-quiet">Drawn as</legend>
          <div className="flex flex-wrap gap-3">
            {kinds.map((kind) => (
              <label
                key={kind}
                className={`block cursor-pointer border p-1.5 ${tile.kind === kind ? "border-act" : "border-hairline"}`}
                style={{ width: miniature.width }}
              >
                <span className="flex items-center gap-2 text-[13px]">
                  <input
                    type="radio"
                    name="kind"
                    className="accent-act"
                    checked={tile.kind === kind}
                    onChange={() => set({ kind })}
                  />
                  {tileKinds[kind].words}
                </span>
                <div
                  inert
                  aria-hidden="true"
                  className="pointer-events-none mt-1 overflow-hidden"
                  style={{ height: miniature.height }}
                >
                  <TileFrame
                    tile={{ ...tile, kind, title: "" }}
                    picks={picks}
                    widthPx={miniature.width - 14}
                    heightPx={miniature.height}
                    bare
                  />
                </div>
              </label>
            ))}
          </div>
        </fieldset>
      )}
      <LookForm tile={tile} figures={data.figures} onChange={set} />
      <StatesForm tile={tile} onChange={set} />
      <LimitsForm tile={tile} onChange={set} />
      <PickersPart tile={tile} onChange={set} />
      {hasData && !isOwn && (
        <div
          className="mt-3 max-w-full overflow-hidden border-t border-hairline pt-2"
          style={{ height: previewPx.height + 10 }}
          data-preview-tile
        >
          <TileFrame tile={tile} picks={picks} widthPx={previewPx.width} heightPx={previewPx.height} />
        </div>
      )}
      <button type="button" className="act mt-3" onClick={onClose}>
        Back to all tiles
      </button>
    </section>
  );
}

/** How a tile stands to the dashboard's pickers. */
function PickersPart({ tile, onChange }: { tile: Tile; onChange: (change: TileChange) => void }): ReactNode {
  const { pickers } = usePicks();
  if (pickers.length === 0 || readsItself(tile.kind)) return null;
  const ignores = tile.ignores ?? [];
  const tagged = pickers.filter(({ tag }) => tag !== undefined);
  return (
    <fieldset className="mt-3">
      <legend className="text-[13px] text-quiet">Pickers</legend>
      {tagged.length > 0 && (
        <p>
          Stands{" "}
          <SelectPart
            label="how often the tile stands"
            value={tile.repeat ?? ""}
            options={[
              ["", "once"],
              ...tagged.map((picker): readonly [string, string] => [
                picker.id,
                `once for each ${pickerTitle(picker)} that is picked`,
              ]),
            ]}
            onChange={(id) => onChange({ repeat: id === "" ? undefined : id })}
          />
          .
        </p>
      )}
      <p className="flex flex-wrap gap-x-4">
        {pickers.map((picker) => (
          <label key={picker.id} className="flex items-center gap-1.5">
            <input
              type="checkbox"
              className="accent-act"
              checked={!ignores.includes(picker.id)}
              onChange={(event) =>
                onChange({
                  ignores: event.target.checked ? ignores.filter((id) => id !== picker.id) : [...ignores, picker.id],
                })
              }
            />
            follows {pickerTitle(picker)}
          </label>
        ))}
      </p>
    </fieldset>
  );
}
