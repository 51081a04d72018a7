import { NotWhole } from "../../../shared/charts/not-whole.tsx";
import type { Drawn } from "../../../../../core/drawing/drawings.ts";
import { Beside } from "../../../ui/beside.tsx";
import { DrawnAs } from "./drawn-as.tsx";
import { TilePreview } from "./tile-preview.tsx";
import { type ReactNode, useEffect, useRef } from "react";
import type { Tile } from "../../../../../core/dashboards/dashboard.ts";
import { drawsReading, drawsTime, readsItself, tileKinds } from "../../../../../core/dashboards/tile-kinds.ts";
import { pickerTitle } from "../../../../../core/dashboards/pickers.ts";
import { SelectPart } from "../../../sentence/select-part.tsx";
import { TypedInput } from "../../../ui/typed-input.tsx";
import { usePicks } from "../picks-provider.tsx";
import { useTile } from "../tiles/use-tile.ts";
import { DataPart } from "./data-part.tsx";
import { LimitsForm, StatesForm } from "./limits-form.tsx";
import { LookForm } from "./look-form.tsx";
import { changedBy, type TileChange } from "./tile-change.ts";

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
  return (
    <section
      aria-label={`Change ${tile.title || "the tile"}`}
      className="my-3 border-l-2 border-act py-1 pl-4"
      data-tile-editor
      onKeyDown={(event) => event.key === "Escape" && event.target === event.currentTarget && onClose()}
    >
      <Beside
        label="The tile as it will stand"
        aside={
          <>
            <TilePreview tile={tile} />
            {tile.reading && drawsTime(tile.kind) && (
              <NotWhole reading={tile.reading} drawn={tile.kind as Drawn} onChange={(reading) => set({ reading })} />
            )}
            {hasData && drawsReading(tile.kind) && <DrawnAs tile={tile} onKind={(kind) => set({ kind })} />}
          </>
        }
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
              highest; also first, lowest, mean, sum, last; {"{name %}"} a share in per cent
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
        <LookForm tile={tile} figures={data.figures} onChange={set} />
        <StatesForm tile={tile} onChange={set} />
        <LimitsForm tile={tile} onChange={set} />
        <PickersPart tile={tile} onChange={set} />
        <button type="button" className="act mt-3" onClick={onClose}>
          Back to all tiles
        </button>
      </Beside>
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
