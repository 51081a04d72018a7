import { makeForward } from "../../../core/api/forwards.ts";
import { askEnergy } from "../../../core/api/energy.ts";
import { askFit } from "../../../core/api/fit.ts";
import { getCosts } from "../../../core/api/costs.ts";
import { getSpace } from "../../../core/api/space.ts";
import { getTransport } from "../../../core/api/transport.ts";
import { listCounters } from "../../../core/api/counters.ts";
import { listDashboards } from "../../../core/api/dashboards.ts";
import { listIncidents } from "../../../core/api/incidents.ts";
import { listMachines } from "../../../core/api/machines.ts";
import { listRecipients } from "../../../core/api/messages.ts";
import { listRecordings, makeRecording } from "../../../core/api/recordings.ts";
import { listSources, makeSource } from "../../../core/api/sources.ts";
import { makeToken } from "../../../core/api/tokens.ts";
import { planQuietTime } from "../../../core/api/quiet.ts";
import type { Route } from "../../../core/api/route.ts";
import { answersTo, typedWords } from "../../../core/text/typed-words.ts";
import { useMay } from "../shared/people/use-may.ts";
import { listRules, makeRule } from "../../../core/api/rules.ts";
import { useQuery } from "@tanstack/react-query";
import { Command } from "cmdk";
import { type ReactNode, useEffect, useMemo, useRef, useState } from "react";
import { countersQuery, dashboardsQuery, machinesQuery, rulesQuery } from "../api/queries.ts";
import { readyMade } from "../../../core/dashboards/ready-made.ts";
import { findCounters } from "../../../core/counters/find-counters.ts";
import { readingAddress } from "../sentence/reading-address.ts";
import { findFigures, namedFigures } from "../shared/bands/named-figures.ts";
import { bands } from "../shared/bands/bands.ts";
import { chooseTheme } from "../ui/theme.ts";
import { useGo } from "../time/use-go.ts";

type Needs = Pick<Route, "method" | "path">;
const sections: readonly (readonly [words: string, to: string, needs: Needs])[] = [
  ["Fleet", "/", listMachines],
  ["Counters", "/counters", listCounters],
  ["Dashboards", "/dashboards", listDashboards],
  ["Alerts", "/alerts", listIncidents],
  ["Recordings", "/recordings", listRecordings],
  ["Planning: energy and what it costs", "/planning", askEnergy],
  ["Planning: what fills, and when", "/planning/space", getSpace],
  ["Planning: do the guests fit on fewer machines", "/planning/fit", askFit],
  ["Sources", "/sources", listSources],
];
const actions: readonly (readonly [words: string, run: string | (() => void), needs?: Needs])[] = [
  ["connect a machine", "/sources/connect", makeSource],
  ["make a rule", "/alerts/rules/new", makeRule],
  ["record something closely", "/recordings/new", makeRecording],
  ["who is told of incidents", "/alerts/recipients", listRecipients],
  ["plan a quiet time", "/alerts/quiet", planQuietTime],
  ["make a token", "/sources/tokens", makeToken],
  ["what gathering costs", "/sources/costs", getCosts],
  ["send counters on to another receiver", "/sources/sent-on", makeForward],
  ["how the server is reached", "/sources/transport", getTransport],
  ["by night", () => chooseTheme("night")],
  ["by day", () => chooseTheme("day")],
];
const mostCounters = 30;
const machinePath = (name: string) => `/machines/${encodeURIComponent(name)}`;

interface FindListProps {
  /** What was typed before this came. */
  readonly typed: string;
  /** The field was left with nothing in it. */
  readonly onLeave: () => void;
}

/** Finds machines, what runs on them, their bands, counters, rules, sections and actions by what is typed, in any order. */
export function FindList({ typed: first, onLeave }: FindListProps): ReactNode {
  const field = useRef<HTMLInputElement>(null);
  const [open, setOpen] = useState(true);
  const [text, setText] = useState(first);
  const go = useGo();
  const may = useMay();
  const machines = useQuery({ ...machinesQuery, enabled: open }).data ?? [];
  const rules = useQuery({ ...rulesQuery, enabled: open && may(listRules) }).data ?? [];
  const dashboards = useQuery({ ...dashboardsQuery, enabled: open }).data ?? [];
  const counters = useQuery({ ...countersQuery, enabled: open }).data ?? [];

  // What was typed while this came stands in the field already, which has the focus.
  useEffect(() => {
    const input = field.current;
    input?.focus();
    input?.setSelectionRange(input.value.length, input.value.length);
  }, []);

  const choose = (to: string | (() => void)) => {
    if (typeof to === "string") go(to);
    else to();
    setText("");
    field.current?.blur();
  };
  const typed = text.trim();
  const wanted = useMemo(() => typedWords(text), [text]);
  const present = new Map(counters.map(({ name, machines: on }) => [name, on]));
  const item = (words: string, kind: string, to: string | (() => void), more = "") => (
    <Command.Item
      key={`${kind} ${words} ${more}`}
      value={`${words} ${kind} ${more}`}
      onSelect={() => choose(to)}
      className="flex cursor-pointer justify-between gap-3 px-3 py-1 data-[selected=true]:bg-wash"
    >
      <span className="truncate">{words}</span>
      <span className="shrink-0 text-quiet">{kind}</span>
    </Command.Item>
  );
  return (
    <Command
      label="Find"
      loop
      filter={(value) => answersTo(wanted, value)}
      className="relative w-full"
      onKeyDown={(event) => event.key === "Escape" && field.current?.blur()}
    >
      <Command.Input
        ref={field}
        value={text}
        onValueChange={setText}
        onFocus={() => setOpen(true)}
        onBlur={() => {
          setOpen(false);
          if (text === "") onLeave();
        }}
        placeholder="Find …  /"
        aria-keyshortcuts="/ Control+K"
        className="w-full"
      />
      {/* Choosing by pointer must come before the field loses its focus. */}
      <Command.List
        onMouseDown={(event) => event.preventDefault()}
        className={
          open
            ? "absolute right-0 z-40 mt-1 max-h-80 w-80 overflow-auto border border-hairline bg-paper py-1"
            : "hidden"
        }
      >
        {open && (
          <>
            <Command.Empty className="px-3 py-1 text-quiet">Nothing here has that name.</Command.Empty>
            {sections.filter(([, , needs]) => may(needs)).map(([words, path]) => item(words, "section", path))}
            {machines.map(({ name, friendlyName }) =>
              item(friendlyName || name, "machine", machinePath(name), friendlyName === "" ? undefined : name),
            )}
            {machines.flatMap(({ name, friendlyName, guests, containers }) => [
              ...guests.map((part) =>
                item(
                  part,
                  `guest of ${friendlyName || name}`,
                  `${machinePath(name)}/guests/${encodeURIComponent(part)}`,
                ),
              ),
              ...containers.map((part) =>
                item(
                  part,
                  `container of ${friendlyName || name}`,
                  `${machinePath(name)}/containers/${encodeURIComponent(part)}`,
                ),
              ),
            ])}
            {typed &&
              machines.flatMap(({ name, friendlyName }) =>
                bands
                  .filter((band) => band.counters.some((counter) => present.get(counter)?.includes(name)))
                  .map((band) =>
                    item(`${friendlyName || name}: ${band.title}`, "band", `${machinePath(name)}#${band.id}`, name),
                  ),
              )}
            {typed &&
              findFigures(namedFigures(counters), typed).map(({ words, subject, reading }) =>
                item(words, "figure of every machine", readingAddress(reading, "lines"), subject),
              )}
            {typed &&
              findCounters(counters, typed)
                .slice(0, mostCounters)
                .map((counter) =>
                  item(
                    counter.words,
                    "counter",
                    readingAddress(
                      {
                        sentences: {
                          a: {
                            counter: counter.name,
                            ...(counter.series > 8 && { keep: { highest: 8, by: "mean" as const } }),
                          },
                        },
                      },
                      "lines",
                    ),
                    counter.name,
                  ),
                )}
            {dashboards.map(({ id, title }) => item(title, "dashboard", `/dashboards/${id}`, String(id)))}
            {readyMade
              .filter(({ needs }) => needs.every((name) => present.has(name)))
              .map((one) => item(one.document.title, "ready-made dashboard", `/dashboards/ready-made/${one.id}`))}
            {rules.map((rule) => item(rule.name, "rule", `/alerts/rules/${rule.id}`))}
            {actions
              .filter(([, , needs]) => needs === undefined || may(needs))
              .map(([words, run]) => item(words, "action", run))}
          </>
        )}
      </Command.List>
    </Command>
  );
}
