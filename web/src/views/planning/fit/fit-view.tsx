import { type ReactNode, useEffect, useState } from "react";
import type { FitAnswer, FitBody, SuppliedHost } from "../../../../../core/api/fit.ts";
import { money } from "../../../../../core/tariffs/cost-words.ts";
import { SelectPart } from "../../../sentence/select-part.tsx";
import { TypedInput } from "../../../ui/typed-input.tsx";
import { NumberField } from "../../../ui/number-field.tsx";
import { PlanningHeading } from "../planning-heading.tsx";
import { GuestsTable } from "./guests-table.tsx";
import { HostLoads } from "./host-loads.tsx";
import { useFit } from "./use-fit.ts";

const dayMs = 86_400_000;
const lengths = [
  ["1", "a day"],
  ["7", "seven days"],
  ["30", "thirty days"],
] as const;
const percentiles = [
  ["0.9", "90"],
  ["0.95", "95"],
  ["0.99", "99"],
  ["1", "100"],
] as const;
const headrooms = [
  ["0", "nothing"],
  ["0.1", "10 %"],
  ["0.2", "20 %"],
  ["0.3", "30 %"],
  ["0.5", "half"],
] as const;

interface Asked {
  readonly days: string;
  readonly percentile: string;
  readonly headroom: string;
  /** Hardware that is not there yet. */
  readonly box: { readonly processors: number | undefined; readonly gibibytes: number | undefined };
  readonly apart: string;
}

/** Where guests were put by hand: on a host each. */
type Placed = Readonly<Record<string, string>>;

/** Would guests and containers fit on fewer machines, which could be off, and what would that save? */
export function FitView(): ReactNode {
  const { ask, stop, isAsking, progress, bound, hostsOn, answer, error } = useFit();
  const [asked, setAsked] = useState<Asked>({
    days: "7",
    percentile: "0.95",
    headroom: "0.2",
    box: { processors: undefined, gibibytes: undefined },
    apart: "",
  });
  const [kept, setKept] = useState<readonly string[]>([]);
  const [placed, setPlaced] = useState<Placed>({});
  useEffect(() => ask(bodyOf(asked, kept, placed)), [ask, asked, kept, placed]);
  const set = (change: Partial<Asked>) => {
    setPlaced({});
    setAsked({ ...asked, ...change });
  };
  return (
    <section aria-label="Fit">
      <PlanningHeading />
      <p className="mt-4 leading-8">
        Would the guests and containers of the last{" "}
        <SelectPart label="how long" value={asked.days} options={lengths} onChange={(days) => set({ days })} /> fit on
        fewer machines, with{" "}
        <SelectPart
          label="headroom"
          value={asked.headroom}
          options={headrooms}
          onChange={(headroom) => set({ headroom })}
        />{" "}
        of each kept free in{" "}
        <SelectPart
          label="percentile"
          value={asked.percentile}
          options={percentiles}
          onChange={(percentile) => set({ percentile })}
        />{" "}
        of 100 moments? Or on machines of{" "}
        <NumberField
          label="processors of a new machine"
          value={asked.box.processors}
          usual="–"
          className="w-14"
          least={1}
          most={4096}
          onChange={(processors) => set({ box: { ...asked.box, processors } })}
        />{" "}
        processors and{" "}
        <NumberField
          label="GiB of a new machine"
          value={asked.box.gibibytes}
          usual="–"
          className="w-16"
          least={1}
          most={1_000_000}
          onChange={(gibibytes) => set({ box: { ...asked.box, gibibytes } })}
        />{" "}
        GiB? Must not meet:{" "}
        <TypedInput
          aria-label="guests that must not meet"
          placeholder="web, mail; relay, site"
          value={asked.apart}
          className="w-64 !py-0"
          onType={(apart) => set({ apart })}
        />
      </p>
      {isAsking && (
        <p className="py-2" role="status">
          <span className="text-quiet">
            searching … {Math.round(progress * 100)} %
            {bound !== null && `, at least ${bound} ${bound === 1 ? "host" : "hosts"}`}
            {hostsOn !== null && `, found ${hostsOn}`}
          </span>{" "}
          <button type="button" className="word-link" onClick={stop}>
            Stop
          </button>
        </p>
      )}
      {error && (
        <p role="alert" className="py-2 text-urgent">
          {error.message}{" "}
          <button type="button" className="word-link" onClick={() => ask(bodyOf(asked, kept, placed))}>
            Try again
          </button>
        </p>
      )}
      {answer && <Answer answer={answer} />}
      {answer && answer.guests.length > 0 && (
        <>
          <HostLoads
            answer={answer}
            headroom={Number(asked.headroom)}
            onSpeed={() => ask(bodyOf(asked, kept, placed))}
          />
          <GuestsTable
            answer={answer}
            kept={kept}
            onKeep={setKept}
            onPlace={(guest, host) => setPlaced({ ...placedNow(answer), ...placed, [guest]: host })}
          />
          <p className="mt-2 flex flex-wrap gap-x-5 text-[13.5px]">
            {Object.keys(placed).length > 0 && (
              <button type="button" className="word-link" onClick={() => setPlaced({})}>
                Let it be searched again
              </button>
            )}
          </p>
        </>
      )}
    </section>
  );
}

function Answer({ answer: { words, saves, canBeOff, notes } }: { answer: FitAnswer }): ReactNode {
  return (
    <div className="mt-3 max-w-prose space-y-1" data-fit-words>
      {words.map((one, i) => (
        <p key={one} className={i === 0 ? "text-[17px]" : ""}>
          {one}
        </p>
      ))}
      {canBeOff.length > 0 && (
        <p>
          {saves.costPerYear !== null && saves.currency !== null && (
            <strong>{money(saves.costPerYear, saves.currency)} a year saved. </strong>
          )}
          <span className="text-quiet">{saves.formula}</span>
        </p>
      )}
      {notes.map((one) => (
        <p key={one} className="text-[13.5px] text-quiet">
          {one}
        </p>
      ))}
    </div>
  );
}

/** Where everything is in an answer. */
const placedNow = ({ hosts }: FitAnswer): Placed =>
  Object.fromEntries(hosts.flatMap(({ machine, guests }) => guests.map((guest) => [guest, machine])));

/** "web, mail; relay, site": lists of two or more. */
const apartOf = (text: string): readonly (readonly string[])[] =>
  text
    .split(";")
    .map((list) => [...new Set(list.split(",").map((name) => name.trim()))].filter((name) => name !== ""))
    .filter((list) => list.length > 1);

function bodyOf({ days, percentile, headroom, box, apart }: Asked, kept: readonly string[], placed: Placed): FitBody {
  const to = Math.floor(Date.now() / 300_000) * 300_000;
  const byHand = Object.entries(placed);
  const hosts: SuppliedHost[] =
    box.processors && box.gibibytes
      ? Array.from({ length: 8 }, (_, i) => ({
          machine: `new machine ${i + 1}`,
          processors: box.processors as number,
          memory: (box.gibibytes as number) * 2 ** 30,
        }))
      : [];
  return {
    window: { from: to - Number(days) * dayMs, to },
    percentile: Number(percentile),
    headroom: Number(headroom),
    ...(hosts.length > 0 && { hosts }),
    apart: apartOf(apart),
    keep: byHand.length > 0 ? byHand.map(([guest, host]) => ({ guest, on: [host] })) : kept,
  };
}
