import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { type ReactNode, useState } from "react";
import type { SourceView } from "../../../../core/api/sources.ts";
import {
  chooseWindowsCounters,
  getWindowsCounters,
  type WindowsCountersView,
} from "../../../../core/api/windows-counters.ts";
import type { CounterCategory, CounterChoice, PickedCounter } from "../../../../core/formats/windows/counter-choice.ts";
import { englishName } from "../../../../core/formats/windows/names.ts";
import { call } from "../../api/client.ts";
import { useTime } from "../../time/time-provider.tsx";
import { presentSpan } from "../../../../core/units/present.ts";

const fewCategories = 12;

/**
 * What a Windows machine is to count: chosen from what it said that it has. Other collectors have nothing of the kind,
 * and show nothing.
 */
export function WindowsCountersForm({ source }: { source: SourceView }): ReactNode {
  const counters = useQuery({
    queryKey: ["windows-counters", source.id],
    queryFn: () => call(getWindowsCounters, { id: source.id }),
  });
  if (!counters.data) return null;
  return <Choosing key={counters.data.toldAtMs} source={source} counters={counters.data} />;
}

function Choosing({ source, counters }: { source: SourceView; counters: WindowsCountersView }): ReactNode {
  const { nowMs } = useTime();
  const queries = useQueryClient();
  const [choice, setChoice] = useState<CounterChoice>(counters.chosen ?? counters.byDefault);
  const [machines, setMachines] = useState(choice.machines.join(", "));
  const [wanted, setWanted] = useState("");
  const [open, setOpen] = useState<string>();
  const save = useMutation({
    mutationFn: (chosen: CounterChoice | null) => call(chooseWindowsCounters, { id: source.id }, { chosen }),
    onSuccess: () => queries.invalidateQueries({ queryKey: ["windows-counters", source.id] }),
  });
  const text = wanted.trim().toLowerCase();
  const isPicked = (category: string) => choice.picks.some((one) => one.category === category);
  const fits = ({ category, counters: has }: CounterCategory) =>
    text === "" || [category, englishName(category), ...has].some((name) => name.toLowerCase().includes(text));
  const found = counters.told.filter(fits).sort((a, b) => Number(isPicked(b.category)) - Number(isPicked(a.category)));
  const setPick = (category: string, counter: string, instances: PickedCounter["instances"] | undefined) => {
    const others = choice.picks.filter((one) => one.category !== category || one.counter !== counter);
    setChoice({
      ...choice,
      picks: instances === undefined || instances.length === 0 ? others : [...others, { category, counter, instances }],
    });
  };
  const submit = () =>
    save.mutate({
      ...choice,
      machines: machines
        .split(",")
        .map((name) => name.trim())
        .filter((name) => name !== ""),
    });
  return (
    <section aria-labelledby="windows-counters-title" className="border-t border-hairline py-4" data-windows-counters>
      <h2 id="windows-counters-title" className="font-bold">
        What it counts
      </h2>
      <p className="max-w-prose text-quiet">
        The machine said {presentSpan(Math.max(0, nowMs - counters.toldAtMs))} ago that it has{" "}
        {counters.told.length.toLocaleString("en")} categories.{" "}
        {counters.chosen ? (
          <>
            What is ticked was chosen here.{" "}
            <button type="button" className="word-link" onClick={() => save.mutate(null)}>
              Back to the usual
            </button>
          </>
        ) : (
          "What is ticked is the usual; choose what else it is to count, and what not."
        )}{" "}
        The machine fetches its list within a few minutes.
      </p>
      <p className="flex flex-wrap items-center gap-x-6 gap-y-2 py-2">
        <label>
          find{" "}
          <input
            value={wanted}
            placeholder="a category or a counter"
            className="w-64"
            onChange={(event) => setWanted(event.target.value)}
          />
        </label>
        <span className="text-quiet">
          {found.length.toLocaleString("en")} of {counters.told.length.toLocaleString("en")}
        </span>
      </p>
      {found.slice(0, text === "" ? Math.max(fewCategories, choice.picks.length) : 40).map((category) => (
        <div key={category.category} className="border-t border-hairline py-1">
          <button
            type="button"
            className="flex w-full items-baseline gap-3 text-left"
            aria-expanded={open === category.category}
            onClick={() => setOpen(open === category.category ? undefined : category.category)}
          >
            <span className={isPicked(category.category) ? "font-bold" : ""}>{category.category}</span>
            <span className="text-[13px] text-quiet">{picksWords(category, choice)}</span>
          </button>
          {open === category.category &&
            category.counters.map((counter) => (
              <CounterRow
                key={counter}
                category={category}
                counter={counter}
                pick={choice.picks.find((one) => one.category === category.category && one.counter === counter)}
                onPick={(instances) => setPick(category.category, counter, instances)}
              />
            ))}
        </div>
      ))}
      {found.length === 0 && <p className="py-2 text-quiet">It has nothing of that name.</p>}
      <p className="flex flex-wrap items-center gap-2 py-3">
        <label>
          the same of these machines, which it asks by their names:{" "}
          <input
            value={machines}
            placeholder="ATTIC, STUDIO-2"
            className="ml-1 w-64"
            onChange={(event) => setMachines(event.target.value)}
          />
        </label>
        <span className="text-[13px] text-quiet">its account must be allowed to read counters there</span>
      </p>
      <button type="button" className="act" disabled={save.isPending || choice.picks.length === 0} onClick={submit}>
        Count these
      </button>
      {save.isSuccess && <span className="ml-3 text-quiet">kept</span>}
      {save.error && (
        <p role="alert" className="py-2 text-urgent">
          {save.error.message}
        </p>
      )}
    </section>
  );
}

function picksWords({ category, counters, instances }: CounterCategory, { picks }: CounterChoice): string {
  const own = picks.filter((one) => one.category === category).length;
  const english = englishName(category);
  return [
    english === category ? "" : `${english} in English`,
    own === 0
      ? `${counters.length} ${counters.length === 1 ? "counter" : "counters"}`
      : `${own} of ${counters.length} counted`,
    instances.length === 0 ? "" : `${instances.length} ${instances.length === 1 ? "instance" : "instances"}`,
  ]
    .filter((part) => part !== "")
    .join(", ");
}

function CounterRow({
  category,
  counter,
  pick,
  onPick,
}: {
  category: CounterCategory;
  counter: string;
  pick: PickedCounter | undefined;
  onPick: (instances: PickedCounter["instances"] | undefined) => void;
}): ReactNode {
  const { instances } = category;
  const chosen = pick?.instances;
  const english = englishName(counter);
  return (
    <div className="py-1 pl-5">
      <label className="flex items-center gap-2">
        <input
          type="checkbox"
          className="accent-act"
          checked={pick !== undefined}
          onChange={({ target }) => onPick(target.checked ? "all" : undefined)}
        />{" "}
        {counter} {english !== counter && <span className="text-[13px] text-quiet">{english} in English</span>}
      </label>
      {pick && instances.length > 0 && (
        <div className="flex flex-wrap items-center gap-x-4 gap-y-1 py-1 pl-6 text-[14px]">
          <label className="flex items-center gap-1">
            <input
              type="checkbox"
              className="accent-act"
              checked={chosen === "all"}
              onChange={({ target }) => onPick(target.checked ? "all" : instances.slice(0, 1))}
            />{" "}
            every instance, new ones too
          </label>
          {chosen !== "all" &&
            instances.slice(0, 200).map((instance) => (
              <label key={instance} className="flex items-center gap-1">
                <input
                  type="checkbox"
                  className="accent-act"
                  checked={chosen?.includes(instance) ?? false}
                  onChange={({ target }) =>
                    onPick(
                      target.checked ? [...(chosen ?? []), instance] : (chosen ?? []).filter((one) => one !== instance),
                    )
                  }
                />{" "}
                {instance}
              </label>
            ))}
        </div>
      )}
    </div>
  );
}
