import type { ReactNode } from "react";
import type { Tariff } from "../../../../../core/tariffs/tariff.ts";
import { NumberField } from "../../../ui/number-field.tsx";
import { TypedInput } from "../../../ui/typed-input.tsx";
import { HoursPart } from "./hours-part.tsx";

type Seasons = NonNullable<Tariff["seasons"]>;

interface SeasonsPartProps {
  readonly seasons: Seasons;
  readonly onChange: (seasons: Seasons) => void;
}

/** Parts of the year in which a kWh costs something else. */
export function SeasonsPart({ seasons, onChange }: SeasonsPartProps): ReactNode {
  return (
    <div>
      {seasons.map((season, i) => {
        const set = (change: object) => onChange(seasons.with(i, { ...season, ...change }));
        return (
          // biome-ignore lint/suspicious/noArrayIndexKey: seasons are their place in the list
          <div key={i} className="border-l border-hairline pl-3">
            Each year from{" "}
            <TypedInput
              aria-label="season's first day"
              value={season.from}
              className="w-20 figure"
              onType={(from) => set({ from })}
            />{" "}
            to{" "}
            <TypedInput
              aria-label="season's last day"
              value={season.to}
              className="w-20 figure"
              onType={(to) => set({ to })}
            />{" "}
            it is{" "}
            <NumberField
              label="price in this season"
              value={season.price}
              usual="the same"
              className="w-24"
              onChange={(price) => set({ price })}
            />{" "}
            <button
              type="button"
              className="word-link text-[13.5px]"
              onClick={() => onChange(seasons.filter((_, k) => k !== i))}
            >
              without it
            </button>
            <br />
            <HoursPart
              hours={season.hours ?? []}
              onChange={(hours) => set({ hours: hours.length > 0 ? hours : undefined })}
            />
          </div>
        );
      })}
      <button
        type="button"
        className="word-link text-[13.5px]"
        onClick={() => onChange([...seasons, { from: "10-01", to: "03-31" }])}
      >
        Part of the year costs something else
      </button>
    </div>
  );
}
