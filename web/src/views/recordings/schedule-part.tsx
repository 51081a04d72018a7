import type { ReactNode } from "react";
import type { RunSchedule } from "../../../../core/recordings/schedule.ts";
import { viewerZone } from "../../api/queries.ts";

const weekdays = ["Mon", "Tue", "Wed", "Thu", "Fri", "Sat", "Sun"] as const;
const workdays = [1, 2, 3, 4, 5];

/** When a recording runs by itself. */
export function SchedulePart({
  schedule,
  onChange,
}: {
  schedule: RunSchedule | undefined;
  onChange: (schedule: RunSchedule | undefined) => void;
}): ReactNode {
  if (!schedule)
    return (
      <p className="leading-8">
        It runs when somebody or a script says so.{" "}
        <button
          type="button"
          className="word-link"
          onClick={() => onChange({ weekdays: workdays, from: "07:20", to: "07:50", zone: viewerZone })}
        >
          by itself on some days …
        </button>
      </p>
    );
  const set = (change: Partial<RunSchedule>) => onChange({ ...schedule, ...change });
  const setDay = (name: "firstDay" | "lastDay", value: string) => {
    const { [name]: _, ...rest } = schedule;
    onChange(value === "" ? rest : { ...rest, [name]: value });
  };
  return (
    <fieldset>
      <legend className="sr-only">When it runs by itself</legend>
      <p className="flex flex-wrap items-baseline gap-x-3 gap-y-1 leading-8">
        It runs by itself on
        {weekdays.map((day, i) => (
          <label key={day} className="flex items-center gap-1">
            <input
              type="checkbox"
              className="accent-act"
              checked={schedule.weekdays.includes(i + 1)}
              onChange={(event) =>
                set({
                  weekdays: event.target.checked
                    ? [...schedule.weekdays, i + 1].toSorted((a, b) => a - b)
                    : schedule.weekdays.filter((one) => one !== i + 1),
                })
              }
            />
            {day}
          </label>
        ))}
      </p>
      <p className="flex flex-wrap items-baseline gap-x-2 gap-y-1 leading-8">
        from
        <input
          type="time"
          required
          aria-label="from"
          value={schedule.from}
          onChange={(event) => set({ from: event.target.value })}
        />
        to
        <input
          type="time"
          required
          aria-label="to"
          value={schedule.to}
          onChange={(event) => set({ to: event.target.value })}
        />
        by the clock of <span className="figure">{schedule.zone}</span>, first on
        <input
          type="date"
          aria-label="first day"
          value={schedule.firstDay ?? ""}
          onChange={(event) => setDay("firstDay", event.target.value)}
        />
        last on
        <input
          type="date"
          aria-label="last day"
          value={schedule.lastDay ?? ""}
          onChange={(event) => setDay("lastDay", event.target.value)}
        />
        <button type="button" className="word-link" onClick={() => onChange(undefined)}>
          not by itself
        </button>
      </p>
      {schedule.weekdays.length === 0 && <p className="text-[13px] text-notice">Choose a day at least.</p>}
    </fieldset>
  );
}
