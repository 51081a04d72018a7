import { planQuietTime } from "../../../../core/api/quiet.ts";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { type ReactNode, useState } from "react";
import { call } from "../../api/client.ts";
import { machinesQuery } from "../../api/queries.ts";
import { fromLocalInput, localInput } from "../../time/moments.ts";
import { TagConditions, type TagValues } from "./tag-conditions.tsx";

const weekdays = ["Mon", "Tue", "Wed", "Thu", "Fri", "Sat", "Sun"] as const;
const hourMs = 3_600_000;

/** Maintenance that is planned: of which machines or tags, from when to when, once or on days of the week. */
export function QuietForm({ onClose }: { onClose: () => void }): ReactNode {
  const queries = useQueryClient();
  const machines = useQuery(machinesQuery).data ?? [];
  const begin = Math.ceil(Date.now() / hourMs) * hourMs;
  const [title, setTitle] = useState("");
  const [why, setWhy] = useState("");
  const [from, setFrom] = useState(localInput(begin));
  const [to, setTo] = useState(localInput(begin + hourMs));
  const [chosen, setChosen] = useState<readonly string[]>([]);
  const [tags, setTags] = useState<readonly TagValues[]>([]);
  const [days, setDays] = useState<readonly number[]>([]);
  const zone = Intl.DateTimeFormat().resolvedOptions().timeZone;
  const [fromMs, toMs] = [fromLocalInput(from), fromLocalInput(to)];
  const fault = !(toMs > fromMs) ? "It must end after it begins." : null;
  const plan = useMutation({
    mutationFn: () =>
      call(
        planQuietTime,
        {},
        {
          title,
          why,
          scope: { machines: chosen, tags },
          fromMs,
          toMs,
          repeat: days.length === 0 ? null : { weekdays: days, zone },
        },
      ),
    onSuccess: async () => {
      await queries.invalidateQueries({ queryKey: ["quiet-times"] });
      onClose();
    },
  });
  const toggle = <T,>(list: readonly T[], one: T, isOn: boolean) =>
    isOn ? [...list, one] : list.filter((other) => other !== one);
  return (
    <form
      aria-label="A quiet time"
      className="my-2 border-l-2 border-act py-1 pl-4"
      onSubmit={(event) => {
        event.preventDefault();
        plan.mutate();
      }}
    >
      <div className="flex flex-wrap gap-x-4 gap-y-2">
        <label>
          <span className="block text-[13px] text-quiet">What it is</span>
          <input
            required
            maxLength={200}
            name="title"
            value={title}
            onChange={(event) => setTitle(event.target.value)}
            placeholder="new drives for vault"
            className="w-64"
          />
        </label>
        <label className="grow">
          <span className="block text-[13px] text-quiet">Why</span>
          <input
            maxLength={2000}
            name="why"
            value={why}
            onChange={(event) => setWhy(event.target.value)}
            className="w-full"
          />
        </label>
      </div>
      <div className="mt-2 flex flex-wrap gap-x-4 gap-y-2">
        <label>
          <span className="block text-[13px] text-quiet">From</span>
          <input
            type="datetime-local"
            step="60"
            required
            name="from"
            value={from.slice(0, 16)}
            onChange={(event) => setFrom(event.target.value)}
          />
        </label>
        <label>
          <span className="block text-[13px] text-quiet">To</span>
          <input
            type="datetime-local"
            step="60"
            required
            name="to"
            value={to.slice(0, 16)}
            onChange={(event) => setTo(event.target.value)}
          />
        </label>
        <fieldset>
          <legend className="text-[13px] text-quiet">Again every week on (none: once); by the clock of {zone}</legend>
          <span className="flex gap-3 pt-1">
            {weekdays.map((day, i) => (
              <label key={day} className="flex items-center gap-1">
                <input
                  type="checkbox"
                  className="accent-act"
                  checked={days.includes(i + 1)}
                  onChange={(event) => setDays(toggle(days, i + 1, event.target.checked).toSorted())}
                />
                {day}
              </label>
            ))}
          </span>
        </fieldset>
      </div>
      <fieldset className="mt-2">
        <legend className="text-[13px] text-quiet">Of which machines (none: all)</legend>
        <span className="flex max-h-28 flex-wrap gap-x-4 overflow-auto">
          {machines.map(({ name }) => (
            <label key={name} className="flex items-center gap-1.5">
              <input
                type="checkbox"
                className="accent-act"
                checked={chosen.includes(name)}
                onChange={(event) => setChosen(toggle(chosen, name, event.target.checked))}
              />
              {name}
            </label>
          ))}
        </span>
      </fieldset>
      <TagConditions tags={tags} onChange={setTags} />
      {fault && (
        <p role="alert" className="text-[13px] text-notice">
          {fault}
        </p>
      )}
      {plan.error && (
        <p role="alert" className="text-urgent">
          {plan.error.message}
        </p>
      )}
      <p className="mt-2 flex gap-3">
        <button type="submit" className="act" disabled={fault !== null || plan.isPending}>
          {chosen.length === 0 && tags.length === 0 ? "Plan it for everything" : "Plan it"}
        </button>
        <button type="button" className="act-plain" onClick={onClose}>
          Leave it
        </button>
      </p>
    </form>
  );
}
