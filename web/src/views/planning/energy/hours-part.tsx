import type { ReactNode } from "react";
import { type TariffHours, weekdays } from "../../../../../core/tariffs/tariff.ts";
import { NumberField } from "../../../ui/number-field.tsx";
import { TypedInput } from "../../../ui/typed-input.tsx";

interface HoursPartProps {
  readonly hours: readonly TariffHours[];
  readonly onChange: (hours: readonly TariffHours[]) => void;
}

/** Hours at which a kWh costs something else. */
export function HoursPart({ hours, onChange }: HoursPartProps): ReactNode {
  return (
    <>
      {hours.map((one, i) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: hours are their place in the list
        <p key={i}>
          From{" "}
          <TypedInput
            aria-label="from"
            value={one.from}
            className="w-20 figure"
            onType={(from) => onChange(hours.with(i, { ...one, from }))}
          />{" "}
          to{" "}
          <TypedInput
            aria-label="to"
            value={one.to}
            className="w-20 figure"
            onType={(to) => onChange(hours.with(i, { ...one, to }))}
          />{" "}
          on{" "}
          <TypedInput
            aria-label="on which days"
            value={(one.days ?? []).join(" ")}
            placeholder="all days"
            className="w-44"
            onType={(text) => {
              const days = weekdays.filter((day) => text.toLowerCase().includes(day));
              const { days: _, ...rest } = one;
              onChange(hours.with(i, days.length > 0 ? { ...rest, days } : rest));
            }}
          />{" "}
          it is{" "}
          <NumberField
            label="price in these hours"
            value={one.price}
            usual="0.20"
            className="w-20"
            onChange={(price) => onChange(hours.with(i, { ...one, price: price ?? 0 }))}
          />{" "}
          <button
            type="button"
            className="word-link text-[13.5px]"
            onClick={() => onChange(hours.filter((_, k) => k !== i))}
          >
            without it
          </button>
        </p>
      ))}
      <button
        type="button"
        className="word-link text-[13.5px]"
        onClick={() => onChange([...hours, { from: "22:00", to: "06:00", price: 0.2 }])}
      >
        Other hours cost something else
      </button>
    </>
  );
}
