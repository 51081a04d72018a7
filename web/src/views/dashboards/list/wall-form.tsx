import { NumberField } from "../../../ui/number-field.tsx";
import { useQuery } from "@tanstack/react-query";
import { type ReactNode, useState } from "react";
import { Link } from "react-router";
import { readyMade } from "../../../../../core/dashboards/ready-made.ts";
import { shortestTurnSeconds, defaultTurnSeconds } from "../../../../../core/dashboards/wall.ts";
import { countersQuery, dashboardsQuery } from "../../../api/queries.ts";
import { searchOfWall } from "../wall/wall-address.ts";

const hours = Array.from({ length: 24 }, (_, hour) => hour);

/** Chooses what a wall screen shows, how long each, and its hours of the night; its address can be opened there. */
export function WallForm({ onClose }: { onClose: () => void }): ReactNode {
  const own = useQuery(dashboardsQuery).data ?? [];
  const names = new Set(useQuery(countersQuery).data?.map(({ name }) => name));
  const all = [
    ...own.map(({ id, title }) => ({ key: String(id), title })),
    ...readyMade
      .filter(({ needs }) => needs.every((name) => names.has(name)))
      .map(({ id, document }) => ({ key: `ready:${id}`, title: `${document.title} (ready-made)` })),
  ];
  const [show, setShow] = useState<readonly string[]>([]);
  const [every, setEvery] = useState(defaultTurnSeconds);
  const [night, setNight] = useState<{ from: number; to: number } | null>(null);
  const address = `/wall?${searchOfWall({ show, everySeconds: every, night }).toString()}`;
  const hour = (label: string, value: number, set: (hour: number) => void) => (
    <select
      className="part figure"
      aria-label={label}
      value={value}
      onChange={(event) => set(Number(event.target.value))}
    >
      {hours.map((one) => (
        <option key={one} value={one}>
          {String(one).padStart(2, "0")}:00
        </option>
      ))}
    </select>
  );
  return (
    <section aria-label="On a wall" className="my-3 border-l-2 border-act py-1 pl-4" data-wall-form>
      <fieldset>
        <legend className="text-[13px] text-quiet">
          Shown in turn, large and without controls, each for the time below
        </legend>
        <ul className="max-h-56 columns-1 overflow-auto sm:columns-2">
          {all.map(({ key, title }) => (
            <li key={key}>
              <label className="flex items-center gap-2 py-0.5">
                <input
                  type="checkbox"
                  className="accent-act"
                  checked={show.includes(key)}
                  onChange={(event) =>
                    setShow(event.target.checked ? [...show, key] : show.filter((one) => one !== key))
                  }
                />
                <span className="min-w-0 truncate">{title}</span>
              </label>
            </li>
          ))}
        </ul>
      </fieldset>
      <p className="mt-2 leading-8">
        Each for{" "}
        <NumberField
          label="seconds for each"
          least={shortestTurnSeconds}
          most={3600}
          value={every}
          usual={String(defaultTurnSeconds)}
          className="w-20"
          onChange={(seconds = defaultTurnSeconds) => setEvery(seconds)}
        />{" "}
        s.{" "}
        <label>
          <input
            type="checkbox"
            className="mr-1.5 accent-act"
            checked={night !== null}
            onChange={(event) => setNight(event.target.checked ? { from: 20, to: 7 } : null)}
          />
          night theme by hour
        </label>
        {night && (
          <>
            , from {hour("night begins", night.from, (from) => setNight({ ...night, from }))} to{" "}
            {hour("night ends", night.to, (to) => setNight({ ...night, to }))}
          </>
        )}
      </p>
      <p className="mt-2 flex items-baseline gap-4">
        {show.length > 0 ? (
          <Link to={address} className="act inline-block">
            Open the wall
          </Link>
        ) : (
          <span className="text-quiet">Choose one dashboard at least.</span>
        )}
        <button type="button" className="act-plain" onClick={onClose}>
          Leave it
        </button>
        {show.length > 0 && <code className="figure min-w-0 truncate text-[12.5px] text-quiet">{address}</code>}
      </p>
    </section>
  );
}
