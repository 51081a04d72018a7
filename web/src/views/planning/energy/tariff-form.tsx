import { type ReactNode, useState } from "react";
import type { Tariff } from "../../../../../core/tariffs/tariff.ts";
import { SelectPart } from "../../../sentence/select-part.tsx";
import { NumberField } from "../../../ui/number-field.tsx";
import { TypedInput } from "../../../ui/typed-input.tsx";
import { HoursPart } from "./hours-part.tsx";
import { SeasonsPart } from "./seasons-part.tsx";

interface TariffFormProps {
  /** Undefined of a new one. */
  readonly tariff: Tariff | undefined;
  readonly problem: string | undefined;
  readonly isSaving: boolean;
  readonly onSave: (tariff: Tariff) => void;
  readonly onLeave: () => void;
  readonly onRemove?: () => void;
}

const zones = Intl.supportedValuesOf("timeZone");
const currencies = Intl.supportedValuesOf("currency");

/** A tariff as a sentence whose parts are typed. */
export function TariffForm({ tariff, problem, isSaving, onSave, onLeave, onRemove }: TariffFormProps): ReactNode {
  const [draft, setDraft] = useState<Tariff>(
    tariff ?? {
      name: "electricity",
      currency: "EUR",
      zone: Intl.DateTimeFormat().resolvedOptions().timeZone,
      from: `${new Date().getFullYear()}-01-01`,
      price: 0.3,
    },
  );
  const set = (change: { readonly [K in keyof Tariff]?: Tariff[K] | undefined }) =>
    setDraft((before) => cleared({ ...before, ...change }));
  return (
    <div className="py-2 leading-8" data-tariff-form>
      <p>
        <TypedInput
          aria-label="name of the tariff"
          value={draft.name}
          className="w-40"
          onType={(name) => set({ name })}
        />{" "}
        costs{" "}
        <NumberField
          label="price a kWh"
          value={draft.price}
          usual="0.30"
          className="w-20"
          onChange={(price) => set({ price: price ?? 0 })}
        />{" "}
        <SelectPart
          label="currency"
          value={draft.currency}
          options={currencies.map((one) => [one, one])}
          onChange={(currency) => set({ currency })}
        />{" "}
        a kWh from{" "}
        <input
          type="date"
          aria-label="first day"
          className="!py-0"
          value={draft.from}
          onChange={(event) => set({ from: event.target.value })}
        />{" "}
        on, by the clock of{" "}
        <SelectPart
          label="time zone"
          value={draft.zone}
          options={zones.map((one) => [one, one])}
          onChange={(zone) => set({ zone })}
        />
        .
      </p>
      <HoursPart hours={draft.hours ?? []} onChange={(hours) => set({ hours: hours.length > 0 ? hours : undefined })} />
      <SeasonsPart
        seasons={draft.seasons ?? []}
        onChange={(seasons) => set({ seasons: seasons.length > 0 ? seasons : undefined })}
      />
      <p>
        Whatever is used:{" "}
        <NumberField
          label="standing charge"
          value={draft.standing?.amount}
          usual="nothing"
          className="w-24"
          onChange={(amount) =>
            set({ standing: amount === undefined ? undefined : { amount, per: draft.standing?.per ?? "month" } })
          }
        />{" "}
        a{" "}
        <SelectPart
          label="standing charge for how long"
          value={draft.standing?.per ?? "month"}
          options={(["day", "month", "year"] as const).map((one) => [one, one])}
          onChange={(per) => draft.standing && set({ standing: { ...draft.standing, per: per as "day" } })}
        />
        . Above{" "}
        <NumberField
          label="kWh a month"
          value={draft.steps?.[0]?.aboveKwh}
          usual="any"
          className="w-24"
          onChange={(aboveKwh) =>
            set({
              steps:
                aboveKwh === undefined
                  ? undefined
                  : [{ aboveKwh, add: draft.steps?.[0]?.add ?? 0 }, ...(draft.steps?.slice(1) ?? [])],
            })
          }
        />{" "}
        kWh a month each costs{" "}
        <NumberField
          label="more a kWh"
          value={draft.steps?.[0]?.add}
          usual="0"
          className="w-20"
          onChange={(add) =>
            draft.steps?.[0] && set({ steps: [{ ...draft.steps[0], add: add ?? 0 }, ...draft.steps.slice(1)] })
          }
        />{" "}
        more.
      </p>
      <p>
        A month may cost{" "}
        <NumberField
          label="budget a month"
          value={draft.budgetPerMonth}
          usual="anything"
          className="w-24"
          onChange={(budgetPerMonth) => set({ budgetPerMonth })}
        />
        ; a kWh is{" "}
        <NumberField
          label="grams of carbon dioxide a kWh"
          value={draft.gramsPerKwh}
          usual="not known"
          className="w-24"
          onChange={(gramsPerKwh) => set({ gramsPerKwh })}
        />{" "}
        g of carbon dioxide. It is for{" "}
        <TypedInput
          aria-label="machines of this tariff"
          value={(draft.sources ?? []).join(", ")}
          className="w-56"
          placeholder="all that no other names"
          onType={(text) => {
            const sources = text
              .split(",")
              .map((one) => one.trim())
              .filter((one) => one !== "");
            set({ sources: sources.length > 0 ? sources : undefined });
          }}
        />
        .
      </p>
      {problem && (
        <p role="alert" className="text-urgent">
          {problem}
        </p>
      )}
      <p className="mt-1 flex flex-wrap gap-3">
        <button
          type="button"
          className="act"
          disabled={isSaving || draft.name.trim() === ""}
          onClick={() => onSave(draft)}
        >
          {isSaving ? "saving …" : "Save it"}
        </button>
        <button type="button" className="act-plain" onClick={onLeave}>
          Leave it
        </button>
        {onRemove && (
          <button type="button" className="word-link" onClick={onRemove}>
            Remove it
          </button>
        )}
      </p>
    </div>
  );
}

/** What is undefined is not said. */
function cleared(draft: object): Tariff {
  return Object.fromEntries(Object.entries(draft).filter(([, value]) => value !== undefined)) as unknown as Tariff;
}
