import type { ReactNode } from "react";
import type { Tile } from "../../../../../core/dashboards/dashboard.ts";
import { tileKinds } from "../../../../../core/dashboards/tile-kinds.ts";
import type { TileLimit } from "../../../../../core/dashboards/limits.ts";
import type { StateWord } from "../../../../../core/dashboards/states.ts";
import { SelectPart } from "../../../sentence/select-part.tsx";
import { NumberField } from "../../../ui/number-field.tsx";
import { TypedInput } from "../../../ui/typed-input.tsx";
import type { TileChange } from "./tile-change.ts";

const mostLimits = 10;
const mostStates = 50;
const severities = [
  ["notice", "notice"],
  ["urgent", "urgent"],
] as const;

interface FormProps {
  readonly tile: Tile;
  readonly onChange: (change: TileChange) => void;
}

/** Limits that are drawn on a tile: notches on scales, thin rules on charts, the colour of figures past them. */
export function LimitsForm({ tile, onChange }: FormProps): ReactNode {
  if (!tileKinds[tile.kind].limits) return null;
  const limits = tile.limits ?? [];
  const set = (next: readonly TileLimit[]) => onChange({ limits: next });
  const put = (at: number, change: Partial<TileLimit>) =>
    set(limits.map((limit, i) => (i === at ? { ...limit, ...change } : limit)));
  return (
    <fieldset className="mt-3" data-limits>
      <legend className="text-[13px] text-quiet">Limits</legend>
      {limits.map((limit, i) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: a limit is its place
        <p key={i} className="leading-8">
          <SelectPart
            label={`limit ${i + 1}, severity`}
            value={limit.severity}
            options={severities}
            onChange={(severity) => put(i, { severity: severity as TileLimit["severity"] })}
          />{" "}
          <SelectPart
            label={`limit ${i + 1}, above or below`}
            value={limit.compare}
            options={[
              ["above", "above"],
              ["below", "below"],
            ]}
            onChange={(compare) => put(i, { compare: compare as TileLimit["compare"] })}
          />{" "}
          <NumberField
            label={`limit ${i + 1}, at`}
            value={limit.at}
            usual=""
            onChange={(at) => at !== undefined && put(i, { at })}
          />
          <button
            type="button"
            className="word-link ml-3 text-[13px]"
            aria-label={`leave out limit ${i + 1}`}
            onClick={() => set(limits.filter((_, k) => k !== i))}
          >
            leave out
          </button>
        </p>
      ))}
      {limits.length < mostLimits && (
        <button
          type="button"
          className="word-link text-[13px]"
          onClick={() =>
            set([...limits, { at: 0, compare: "above", severity: limits.length === 0 ? "notice" : "urgent" }])
          }
        >
          {limits.length === 0 ? "set a limit …" : "another limit …"}
        </button>
      )}
    </fieldset>
  );
}

/** From which value on a line is in which state. */
export function StatesForm({ tile, onChange }: FormProps): ReactNode {
  if (!tileKinds[tile.kind].states) return null;
  const states = tile.states ?? [];
  const set = (next: readonly StateWord[]) => onChange({ states: next });
  const put = (at: number, next: StateWord) => set(states.map((state, i) => (i === at ? next : state)));
  return (
    <fieldset className="mt-3" data-state-words>
      <legend className="text-[13px] text-quiet">States</legend>
      {states.length === 0 && (
        <p className="text-[13.5px] text-quiet">
          Without words, each whole number of a few is a state; with limits, being within or past them.
        </p>
      )}
      {states.map((state, i) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: a state is its place
        <p key={i} className="leading-8">
          from{" "}
          <NumberField
            label={`state ${i + 1}, from`}
            value={state.from}
            usual=""
            onChange={(from) => from !== undefined && put(i, { ...state, from })}
          />{" "}
          on:{" "}
          <TypedInput
            aria-label={`state ${i + 1}, word`}
            value={state.words}
            maxLength={100}
            onType={(words) => words.trim() !== "" && put(i, { ...state, words: words.trim() })}
            className="w-40 !py-0"
          />{" "}
          <SelectPart
            label={`state ${i + 1}, signal`}
            value={state.signal ?? ""}
            options={[
              ["", "is ordinary"],
              ["notice", "is a notice"],
              ["urgent", "is urgent"],
            ]}
            onChange={(signal) => {
              const { signal: _, ...plain } = state;
              put(i, signal === "" ? plain : { ...plain, signal: signal as "notice" });
            }}
          />
          <button
            type="button"
            className="word-link ml-3 text-[13px]"
            aria-label={`leave out state ${i + 1}`}
            onClick={() => set(states.filter((_, k) => k !== i))}
          >
            leave out
          </button>
        </p>
      ))}
      {states.length < mostStates && (
        <button
          type="button"
          className="word-link text-[13px]"
          onClick={() => set([...states, { from: states.length, words: states.length === 0 ? "off" : "on" }])}
        >
          another state …
        </button>
      )}
    </fieldset>
  );
}
