import { useQuery } from "@tanstack/react-query";
import { Command } from "cmdk";
import { type ReactNode, useEffect, useRef, useState } from "react";
import { useNavigate, useSearchParams } from "react-router";
import { countersQuery, machinesQuery, rulesQuery } from "../api/queries.ts";
import { searchWithWindow, windowFromSearch } from "../time/time-window.ts";
import { bands } from "../views/machine/bands.ts";

/** Finds machines, their bands, rules and sections by what is typed; `/` or Ctrl+K comes here. */
export function Find(): ReactNode {
  const field = useRef<HTMLInputElement>(null);
  const [open, setOpen] = useState(false);
  const [text, setText] = useState("");
  const navigate = useNavigate();
  const [search] = useSearchParams();
  const machines = useQuery(machinesQuery).data ?? [];
  const rules = useQuery(rulesQuery).data ?? [];
  const counters = useQuery({ ...countersQuery, enabled: open }).data ?? [];

  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      const typing = event.target instanceof HTMLElement && event.target.matches("input, textarea, select");
      const wanted = (event.key === "/" && !typing && !event.ctrlKey && !event.metaKey) || (event.key === "k" && (event.ctrlKey || event.metaKey));
      if (!wanted) return;
      event.preventDefault();
      field.current?.focus();
    };
    addEventListener("keydown", onKey);
    return () => removeEventListener("keydown", onKey);
  }, []);

  const go = (path: string) => {
    const [place, hash] = path.split("#");
    navigate(`${place}?${searchWithWindow(new URLSearchParams(), windowFromSearch(search))}${hash ? `#${hash}` : ""}`);
    setText("");
    field.current?.blur();
  };
  const present = new Set(counters.map(({ name }) => name));
  const item = (words: string, kind: string, path: string) => (
    <Command.Item key={`${kind} ${words}`} value={`${words} ${kind}`} onSelect={() => go(path)} className="flex cursor-pointer justify-between gap-3 px-3 py-1 data-[selected=true]:bg-wash">
      <span className="truncate">{words}</span>
      <span className="shrink-0 text-quiet">{kind}</span>
    </Command.Item>
  );
  return (
    <Command label="Find" loop className="relative w-36 lg:w-52" onKeyDown={(event) => event.key === "Escape" && field.current?.blur()}>
      <Command.Input ref={field} value={text} onValueChange={setText} onFocus={() => setOpen(true)} onBlur={() => setOpen(false)} placeholder="Find …  /" aria-keyshortcuts="/ Control+K" className="w-full" />
      {/* Choosing by pointer must come before the field loses its focus. */}
      <Command.List onMouseDown={(event) => event.preventDefault()} className={open ? "absolute right-0 z-40 mt-1 max-h-80 w-80 overflow-auto border border-hairline bg-paper py-1" : "hidden"}>
        <Command.Empty className="px-3 py-1 text-quiet">Nothing here has that name.</Command.Empty>
        {item("Fleet", "section", "/")}
        {item("Alerts", "section", "/alerts")}
        {machines.map(({ name }) => item(name, "machine", `/machines/${encodeURIComponent(name)}`))}
        {machines.flatMap(({ name }) => bands.filter((band) => band.counters.some((counter) => present.has(counter))).map((band) => item(`${name}: ${band.title}`, "band", `/machines/${encodeURIComponent(name)}#${band.id}`)))}
        {rules.map((rule) => item(rule.name, "rule", "/alerts"))}
      </Command.List>
    </Command>
  );
}
