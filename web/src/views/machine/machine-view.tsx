import { useCompact } from "./use-compact.ts";
import { PrintedWindow } from "../../time/printed-window.tsx";
import { ViewTitle } from "../../ui/view-title.tsx";
import { May } from "../../shared/people/may.tsx";
import { nameMachine } from "../../../../core/api/machines.ts";
import { useQuery } from "@tanstack/react-query";
import { type ReactNode, useCallback, useEffect, useState } from "react";
import { useLocation, useNavigate, useParams } from "react-router";
import { presentSpan } from "../../../../core/units/present.ts";
import { RequestFailed } from "../../api/client.ts";
import { machineQuery, machinesQuery } from "../../api/queries.ts";
import { SectionLink } from "../../time/section-link.tsx";
import { Signal } from "../../ui/signal.tsx";
import { momentText } from "../../time/moments.ts";
import { useTime } from "../../time/time-provider.tsx";
import { withUnit } from "../../../../core/rules/incident-text.ts";
import type { MachineDetail } from "../../../../core/api/machines.ts";
import type { MachineEvent } from "../../../../core/events/machine-event.ts";
import { pauseWords } from "../../shared/sources/pause-words.ts";
import { BandNav } from "./band-nav.tsx";
import { BandRow } from "./band-row.tsx";
import { bands } from "../../shared/bands/bands.ts";
import { MachineRemoval } from "./machine-removal.tsx";
import { MachineNameForm } from "./machine-name-form.tsx";
import { OtherCounters } from "./other-counters.tsx";
import { useEvents } from "./use-events.ts";
import { useReading } from "../../sentence/use-reading.ts";

/** A machine's page: bands down the page, each a chart with its figure and its top users. */
export function MachineView(): ReactNode {
  const name = useParams()["name"] ?? "";
  const machine = useQuery(machineQuery(name));
  const { hash } = useLocation();
  const counters = machine.data?.counters;
  const drawn = counters !== undefined;
  const events = useEvents(
    useCallback((event: MachineEvent) => event.machine === name || event.machine === "", [name]),
  );
  const [naming, setNaming] = useState(false);
  const [isCompact, setCompact] = useCompact();
  useEffect(() => {
    if (drawn && hash) document.getElementById(hash.slice(1))?.scrollIntoView();
  }, [hash, drawn]);

  if (machine.error instanceof RequestFailed && machine.error.status === 404) {
    return (
      <section>
        <ViewTitle words={name} className="text-xl font-bold" />
        <p className="mt-2">
          {machine.error.message} The machines that have are in the{" "}
          <SectionLink to="/" className="word-link">
            fleet
          </SectionLink>
          .
        </p>
      </section>
    );
  }
  const shown = bands.filter((band) => band.counters.some((counter) => counters?.includes(counter)));
  return (
    <>
      <div className="z-10 flex flex-wrap items-baseline gap-x-5 gap-y-1 border-b border-ink bg-paper pt-2 pb-3 md:sticky md:top-[46px]">
        <ViewTitle words={machine.data?.friendlyName || name} />
        {machine.data && <MachineIdentity machine={machine.data} onName={() => setNaming(!naming)} />}
        <MachineFacts name={name} />
        <MachineSwitch name={name} />
        <button
          type="button"
          className="word-link not-in-print max-lg:hidden"
          aria-pressed={isCompact}
          onClick={() => setCompact(!isCompact)}
        >
          {isCompact ? "one below the other" : "side by side"}
        </button>
        <BandNav bands={shown} />
      </div>
      {machine.data?.state === "silent" && (
        <p className="flex items-center gap-2 border-b border-hairline py-2">
          <Signal of="blind" />{" "}
          {machine.data.lastSampleAtMs === null
            ? "It has been silent since Nubrel was started."
            : `It has been silent since ${momentText(machine.data.lastSampleAtMs, Date.now())}.`}
        </p>
      )}
      {machine.data?.state === "not gathered" && (
        <p className="border-b border-hairline py-2 text-quiet">
          Nothing gathers it any more. What was gathered stays as long as its kind is kept.
        </p>
      )}
      {machine.isPending && <p className="py-8 text-quiet">reading …</p>}
      {machine.error && (
        <p role="alert" className="py-4">
          {machine.error.message}
        </p>
      )}
      {naming && machine.data && <MachineNameForm machine={machine.data} onClose={() => setNaming(false)} />}
      {machine.data && <SourceNotes machine={machine.data} />}
      <div className={isCompact ? "grid gap-x-8 lg:grid-cols-2 min-[1900px]:grid-cols-4" : ""} data-compact={isCompact}>
        {shown.map((band) => (
          <BandRow
            key={`${name} ${band.id}`}
            band={band}
            machine={name}
            counters={counters ?? []}
            events={events}
            isCompact={isCompact}
          />
        ))}
      </div>
      {counters && <OtherCounters machine={name} counters={counters} />}
      {counters?.length === 0 && (
        <p className="max-w-prose py-8">
          Nothing of it has been stored yet. Its charts stand here as soon as something comes.
        </p>
      )}
    </>
  );
}

/** The machine's own name where people call it otherwise, its tags, and the way to change both. */
function MachineIdentity({ machine, onName }: { machine: MachineDetail; onName: () => void }): ReactNode {
  const words = [
    machine.friendlyName !== "" && machine.name,
    ...Object.entries(machine.tags).map(([tag, value]) => `${tag} ${value}`),
  ].filter(Boolean);
  return (
    <p className="text-quiet">
      {words.length > 0 && <span data-identity>{words.join(" · ")} · </span>}
      <May ask={nameMachine}>
        <button type="button" className="word-link not-in-print text-[13px]" onClick={onName}>
          name and tags
        </button>
        <MachineRemoval machine={machine} />
      </May>
    </p>
  );
}

/** What people should know of the sources behind these charts. */
function SourceNotes({ machine }: { machine: MachineDetail }): ReactNode {
  const notes = machine.sources.filter(
    ({ unchecked, failure, pause }) => unchecked || failure !== null || pause !== null,
  );
  return notes.map(({ id, name, unchecked, failure, pause }) => (
    <p key={id} className="border-b border-hairline py-2 text-notice">
      <SectionLink to={`/sources/${id}`} className="word-link">
        {name}
      </SectionLink>
      {unchecked && <strong> is believed without checking its certificate.</strong>}
      {pause && <span data-paused> is {pauseWords(pause, Date.now())}.</span>}
      {failure !== null && !pause && <> did not answer at the last try: {failure}</>}
    </p>
  ));
}

/** "4 cores · 8 GiB · up 3 d 2 h", from the newest values. */
function MachineFacts({ name }: { name: string }): ReactNode {
  const { nowMs } = useTime();
  const minute = Math.floor(nowMs / 60_000) * 60_000;
  const where = [{ tag: "machine", is: [name] }];
  const last = { where, of_every: "last", lines: "together", combine: "max" } as const;
  const answer = useReading(
    {
      sentences: {
        cores: { counter: "system.cpu.logical.count", ...last },
        memory: { counter: "system.memory.limit", ...last },
        uptime: { counter: "system.uptime", ...last },
      },
    },
    { fromMs: minute - 300_000, toMs: minute + 60_000 },
    60,
  );
  const value = (of: string) => answer.data?.lines.find((line) => line.of === of)?.last ?? null;
  const [cores, memory, uptime] = [value("cores"), value("memory"), value("uptime")];
  const facts = [
    cores !== null && `${cores} ${cores === 1 ? "core" : "cores"}`,
    memory !== null && withUnit(memory, "By"),
    uptime !== null && `up ${presentSpan(uptime * 1000)}`,
  ].filter(Boolean);
  return (
    <p className="min-h-5 text-quiet">
      {facts.join(" · ")} <PrintedWindow />
    </p>
  );
}

/** Another machine in place of this one; band and window stay. */
function MachineSwitch({ name }: { name: string }): ReactNode {
  const machines = useQuery(machinesQuery).data ?? [];
  const navigate = useNavigate();
  const { search, hash } = useLocation();
  const [chosen, setChosen] = useState(name);
  useEffect(() => setChosen(name), [name]);
  if (machines.length < 2) return null;
  return (
    <label className="text-quiet">
      look at{" "}
      <select
        className="part"
        value={chosen}
        onChange={(event) => navigate(`/machines/${encodeURIComponent(event.target.value)}${search}${hash}`)}
      >
        {machines.map((machine) => (
          <option key={machine.name}>{machine.name}</option>
        ))}
      </select>
    </label>
  );
}
