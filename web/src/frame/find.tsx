import { useMay } from "../shared/people/use-may.ts";
import { listRules } from "../../../core/api/rules.ts";
import { useQuery } from "@tanstack/react-query";
import { Command } from "cmdk";
import { type ReactNode, useEffect, useRef, useState } from "react";
import { countersQuery, dashboardsQuery, machinesQuery, rulesQuery } from "../api/queries.ts";
import { readyMade } from "../../../core/dashboards/ready-made.ts";
import { findCounters } from "../../../core/counters/find-counters.ts";
import { readingAddress } from "../sentence/reading-address.ts";
import { bands } from "../shared/bands/bands.ts";
import { chooseTheme } from "../ui/theme.ts";
import { useGo } from "../time/use-go.ts";

const sections = [
  ["Fleet", "/"],
  ["Counters", "/counters"],
  ["Dashboards", "/dashboards"],
  ["Alerts", "/alerts"],
  ["Sources", "/sources"],
] as const;
const actions: readonly (readonly [words: string, run: string | (() => void)])[] = [
  ["connect a machine", "/sources/connect"],
  ["make a rule", "/alerts/rules/new"],
  ["who is told of incidents", "/alerts/recipients"],
  ["plan a quiet time", "/alerts/quiet"],
  ["make a token", "/sources/tokens"],
  ["what gathering costs", "/sources/costs"],
  ["how the server is reached", "/sources/transport"],
  ["by night", () => chooseTheme("night")],
  ["by day", () => chooseTheme("day")],
];
const mostCounters = 30;
const machinePath = (name: string) => `/machines/${encodeURIComponent(name)}`;

/**
 * Finds machines, what runs on them, their bands, counters, rules, sections and actions by what is typed; `/` or Ctrl+K
 * comes here.
 */
export function Find(): ReactNode {
  const field = useRef<HTMLInputElement>(null);
  const [open, setOpen] = useState(false);
  const [text, setText] = useState("");
  const go = useGo();
  const machines = useQuery(machinesQuery).data ?? [];
  const rules = useQuery({ ...rulesQuery, enabled: useMay()(listRules) }).data ?? [];
  const dashboards = useQuery({ ...dashboardsQuery, enabled: open }).data ?? [];
  const counters = useQuery({ ...countersQuery, enabled: open }).data ?? [];

  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      const typing = event.target instanceof HTMLElement && event.target.matches("input, textarea, select");
      const wanted =
        (event.key === "/" && !typing && !event.ctrlKey && !event.metaKey) ||
        (event.key === "k" && (event.ctrlKey || event.metaKey));
      if (!wanted) return;
      event.preventDefault();
      field.current?.focus();
    };
    addEventListener("keydown", onKey);
    return () => removeEventListener("keydown", onKey);
  }, []);

  const choose = (to: string | (() => void)) => {
    if (typeof to === "string") go(to);
    else to();
    setText("");
    field.current?.blur();
  };
  const typed = text.trim();
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
      className="relative w-36 lg:w-52"
      onKeyDown={(event) => event.key === "Escape" && field.current?.blur()}
    >
      <Command.Input
        ref={field}
        value={text}
        onValueChange={setText}
        onFocus={() => setOpen(true)}
        onBlur={() => setOpen(false)}
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
            {sections.map(([words, path]) => item(words, "section", path))}
            {machines.map(({ name }) => item(name, "machine", machinePath(name)))}
            {machines.flatMap(({ name, guests, containers }) => [
              ...guests.map((part) =>
                item(part, `guest of ${name}`, `${machinePath(name)}/guests/${encodeURIComponent(part)}`),
              ),
              ...containers.map((part) =>
                item(part, `container of ${name}`, `${machinePath(name)}/containers/${encodeURIComponent(part)}`),
              ),
            ])}
            {typed &&
              machines.flatMap(({ name }) =>
                bands
                  .filter((band) => band.counters.some((counter) => present.get(counter)?.includes(name)))
                  .map((band) => item(`${name}: ${band.title}`, "band", `${machinePath(name)}#${band.id}`)),
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
            {actions.map(([words, run]) => item(words, "action", run))}
          </>
        )}
      </Command.List>
    </Command>
  );
}
