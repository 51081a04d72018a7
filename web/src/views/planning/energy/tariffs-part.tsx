import { May } from "../../../shared/people/may.tsx";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { type ReactNode, useState } from "react";
import { putTariffs } from "../../../../../core/api/energy.ts";
import type { Tariff, TariffHours } from "../../../../../core/tariffs/tariff.ts";
import { call, RequestFailed } from "../../../api/client.ts";
import { tariffsQuery } from "../../../api/queries.ts";
import { Asking } from "../asking.tsx";
import { TariffForm } from "./tariff-form.tsx";

/** What energy costs: every tariff in words, changed in a form. */
export function TariffsPart(): ReactNode {
  const tariffs = useQuery(tariffsQuery);
  const client = useQueryClient();
  const [edited, setEdited] = useState<number | "new" | null>(null);
  const save = useMutation({
    mutationFn: (next: readonly Tariff[]) => call(putTariffs, {}, next),
    onSuccess: (saved) => {
      client.setQueryData(tariffsQuery.queryKey, saved);
      void client.invalidateQueries({ queryKey: ["energy"] });
      setEdited(null);
    },
  });
  const all = tariffs.data ?? [];
  const problem =
    save.error instanceof RequestFailed ? (save.error.errors?.[0]?.message ?? save.error.message) : save.error?.message;
  return (
    <section aria-labelledby="tariffs-title" data-tariffs>
      <h2 id="tariffs-title" className="border-b border-hairline pb-1 font-bold">
        What energy costs
      </h2>
      <Asking of={tariffs} />
      {tariffs.data?.length === 0 && edited === null && (
        <p className="py-2 max-w-prose text-quiet">
          No tariff is given yet: a price a kWh is enough to see what each machine costs.
        </p>
      )}
      <ul>
        {all.map((tariff, i) => (
          <li key={`${tariff.name} ${tariff.from}`} className="border-b border-hairline py-2">
            {edited === i ? (
              <TariffForm
                tariff={tariff}
                problem={problem}
                isSaving={save.isPending}
                onSave={(next) => save.mutate(all.with(i, next))}
                onLeave={() => setEdited(null)}
                onRemove={() => save.mutate(all.filter((_, k) => k !== i))}
              />
            ) : (
              <>
                <p className="max-w-prose">{tariffWords(tariff)}</p>
                <May ask={putTariffs}>
                  <button type="button" className="word-link text-[13.5px]" onClick={() => setEdited(i)}>
                    Change {tariff.name}
                  </button>
                </May>
              </>
            )}
          </li>
        ))}
      </ul>
      {edited === "new" ? (
        <TariffForm
          tariff={undefined}
          problem={problem}
          isSaving={save.isPending}
          onSave={(next) => save.mutate([...all, next])}
          onLeave={() => setEdited(null)}
        />
      ) : (
        tariffs.data && (
          <May ask={putTariffs}>
            <button
              type="button"
              className="word-link mt-2"
              onClick={() => {
                save.reset();
                setEdited("new");
              }}
            >
              Add a tariff
            </button>
          </May>
        )
      )}
    </section>
  );
}

/** A tariff as a person would tell it. */
function tariffWords({
  name,
  currency,
  zone,
  from,
  price,
  hours,
  seasons,
  standing,
  steps,
  sources,
  budgetPerMonth,
  gramsPerKwh,
}: Tariff): string {
  const parts = [
    `${name}: ${price} ${currency} a kWh from ${from} on, by the clock of ${zone}`,
    ...(hours ?? []).map((one) => hoursWords(one, currency)),
    ...(seasons ?? []).map(
      (season) =>
        `from ${season.from} to ${season.to}${season.price === undefined ? "" : ` ${season.price} ${currency}`}${(season.hours ?? []).map((one) => `, ${hoursWords(one, currency)}`).join("")}`,
    ),
    ...(standing ? [`${standing.amount} ${currency} a ${standing.per} whatever is used`] : []),
    ...(steps ?? []).map(
      ({ aboveKwh, add }) => `above ${aboveKwh} kWh a month ${add >= 0 ? `${add} more` : `${-add} less`}`,
    ),
    ...(gramsPerKwh === undefined ? [] : [`${gramsPerKwh} g of carbon dioxide a kWh`]),
    ...(budgetPerMonth === undefined ? [] : [`a budget of ${budgetPerMonth} ${currency} a month`]),
    ...(sources && sources.length > 0 ? [`for ${sources.join(", ")}`] : []),
  ];
  return `${parts.join("; ")}.`;
}

function hoursWords({ days, from, to, price }: TariffHours, currency: string): string {
  return `${days ? `${days.join(", ")} ` : ""}${from} to ${to} ${price} ${currency}`;
}
