import type { ReactNode } from "react";
import type { Tile } from "../../../../../core/dashboards/dashboard.ts";
import { showsFigures, tileKinds } from "../../../../../core/dashboards/tile-kinds.ts";
import { type Bound, type MeterLook, defaultMost } from "../../../../../core/dashboards/meters.ts";
import {
  type ShownFigures,
  type ShownValue,
  shownValues,
  shownWords,
} from "../../../../../core/dashboards/shown-figures.ts";
import { SelectPart } from "../../../sentence/select-part.tsx";
import { NumberField } from "../../../ui/number-field.tsx";
import { TypedInput } from "../../../ui/typed-input.tsx";
import type { TileChange } from "./tile-change.ts";

const upright = { before: "above", after: "below" } as const;
const lying = { before: "left", after: "right" } as const;
const sizes = [
  ["small", "small"],
  ["plain", "plain"],
  ["large", "large"],
] as const;
const automatic = "automatic";
const fixed = "a number";

interface LookFormProps {
  readonly tile: Tile;
  readonly figures: ShownFigures | undefined;
  readonly onChange: (change: TileChange) => void;
}

/** How single figures are shown: which value, how many, on what scale; a sentence whose parts are controls. */
export function LookForm({ tile, figures, onChange }: LookFormProps): ReactNode {
  if (!showsFigures(tile.kind) && !(tileKinds[tile.kind].draws === "table" && tile.reading)) return null;
  const { kind, meter: look = {} } = tile;
  const { draws, most, scale } = tileKinds[kind];
  const values = tile.table ? shownValues : shownValues.filter((value) => value !== "rows");
  const defaultValue: ShownValue = tile.table ? "rows" : "last";
  const set = (change: LookChange) => {
    const next = Object.fromEntries(
      Object.entries({ ...look, ...change }).filter(([, value]) => value !== undefined),
    ) as MeterLook;
    onChange({ meter: next });
  };
  return (
    <fieldset className="mt-3" data-look>
      <legend className="text-[13px] text-quiet">What it shows</legend>
      <p className="leading-8">
        Shows{" "}
        <SelectPart
          label="which value"
          value={tile.shows ?? defaultValue}
          options={values.map((value) => [value, value === "rows" ? "every row" : `the ${shownWords[value]} value`])}
          onChange={(shows) => onChange({ shows: shows as ShownValue })}
        />
        {most && (
          <>
            ,{" "}
            <NumberField
              label="how many at most"
              value={tile.most}
              usual={String(defaultMost)}
              least={1}
              most={500}
              onChange={(most) => onChange({ most })}
            />{" "}
            at most
          </>
        )}
        , in the unit{" "}
        <TypedInput
          aria-label="unit, UCUM"
          placeholder={figures?.columns[0]?.unit ?? "its own"}
          value={look.unit ?? ""}
          maxLength={50}
          onType={(unit) => set({ unit: unit.trim() === "" ? undefined : unit.trim() })}
          className="w-20 !py-0"
        />
        {draws !== "table" && (
          <>
            , where there is no value{" "}
            <TypedInput
              aria-label="text where there is no value"
              placeholder="no value"
              value={look.none ?? ""}
              maxLength={100}
              onType={(none) => set({ none: none === "" ? undefined : none })}
              className="w-28 !py-0"
            />
          </>
        )}
        {scale && <ScalePart scale={scale} look={look} figures={figures} set={set} />}.
      </p>
    </fieldset>
  );
}

type LookChange = { readonly [K in keyof MeterLook]?: MeterLook[K] | undefined };

/** How a scale stands, and where names and values stand beside it. */
function ScalePart({
  scale,
  look,
  figures,
  set,
}: {
  scale: "straight" | "round";
  look: MeterLook;
  figures: ShownFigures | undefined;
  set: (change: LookChange) => void;
}): ReactNode {
  const sides = look.orientation === "lying" ? lying : upright;
  return (
    <>
      , with{" "}
      <NumberField
        label="decimals"
        value={look.decimals}
        usual="as many as suit"
        least={0}
        most={10}
        onChange={(decimals) => set({ decimals })}
      />{" "}
      decimals
      {figures && figures.columns.length > 1 && (
        <>
          , drawing{" "}
          <SelectPart
            label="which column is drawn"
            value={look.column ?? ""}
            options={[
              ["", "every column that is no end of the scale"],
              ...figures.columns.map(({ name }): readonly [string, string] => [name, name]),
            ]}
            onChange={(column) => set({ column: column === "" ? undefined : column })}
          />
        </>
      )}
      .
      <br />
      The scale goes from{" "}
      <BoundPart label="where the scale begins" bound={look.min} figures={figures} onChange={(min) => set({ min })} />{" "}
      to <BoundPart label="where the scale ends" bound={look.max} figures={figures} onChange={(max) => set({ max })} />
      {", "}filled{" "}
      <SelectPart
        label="filled"
        value={look.fill ?? "limit"}
        options={[
          ["limit", "by the limit that is passed"],
          ["value", "by the value"],
          ["plain", "always the same"],
        ]}
        onChange={(fill) => set({ fill: fill as NonNullable<MeterLook["fill"]> })}
      />
      , in the order{" "}
      <SelectPart
        label="order"
        value={look.order ?? "given"}
        options={[
          ["given", "of the data"],
          ["highest", "of the values, highest first"],
          ["lowest", "of the values, lowest first"],
          ["name", "of the names"],
        ]}
        onChange={(order) => set({ order: order as NonNullable<MeterLook["order"]> })}
      />
      .
      <br />
      {scale === "straight" && (
        <>
          They are{" "}
          <SelectPart
            label="orientation"
            value={look.orientation ?? "upright"}
            options={[
              ["upright", "upright"],
              ["lying", "lying"],
            ]}
            onChange={(orientation) => set({ orientation: orientation as "upright" | "lying" })}
          />
          , the{" "}
        </>
      )}
      {scale === "round" && "The "}names{" "}
      <SelectPart
        label="where names stand"
        value={look.names ?? (look.orientation === "lying" ? "before" : "after")}
        options={[
          ["before", sides.before],
          ["after", sides.after],
          ["none", "left out"],
        ]}
        onChange={(names) => set({ names: names as NonNullable<MeterLook["names"]> })}
      />{" "}
      and{" "}
      <SelectPart
        label="size of names"
        value={look.nameSize ?? "plain"}
        options={sizes}
        onChange={(nameSize) => set({ nameSize: nameSize as "plain" })}
      />
      , the values{" "}
      <SelectPart
        label="where values stand"
        value={look.values ?? "meniscus"}
        options={[
          ["meniscus", scale === "round" ? "in the middle" : "at the filling's end"],
          ...(scale === "round"
            ? []
            : ([
                ["before", sides.before],
                ["after", sides.after],
              ] as const)),
          ["none", "left out"],
        ]}
        onChange={(place) => set({ values: place as NonNullable<MeterLook["values"]> })}
      />{" "}
      and{" "}
      <SelectPart
        label="size of values"
        value={look.valueSize ?? "plain"}
        options={sizes}
        onChange={(valueSize) => set({ valueSize: valueSize as "plain" })}
      />
    </>
  );
}

/** Automatic, fixed, or each row's own of another column or sentence, which then is no value itself. */
function BoundPart({
  label,
  bound,
  figures,
  onChange,
}: {
  label: string;
  bound: Bound | undefined;
  figures: ShownFigures | undefined;
  onChange: (bound: Bound | undefined) => void;
}): ReactNode {
  const named = typeof bound === "object" ? bound.column : undefined;
  const columns = [
    ...new Set([...(figures?.columns.map(({ name }) => name) ?? []), ...(named === undefined ? [] : [named])]),
  ];
  const value = bound === undefined ? automatic : named === undefined ? fixed : `of ${named}`;
  return (
    <>
      <SelectPart
        label={label}
        value={value}
        options={[
          [automatic, automatic],
          [fixed, fixed],
          ...columns.map((name): readonly [string, string] => [`of ${name}`, `each one's ${name}`]),
        ]}
        onChange={(chosen) =>
          onChange(
            chosen === automatic
              ? undefined
              : chosen === fixed
                ? typeof bound === "number"
                  ? bound
                  : 0
                : { column: chosen.slice(3) },
          )
        }
      />
      {typeof bound === "number" && (
        <>
          {" "}
          <NumberField
            label={`${label}, a number`}
            value={bound}
            usual=""
            onChange={(next) => next !== undefined && onChange(next)}
          />
        </>
      )}
    </>
  );
}
