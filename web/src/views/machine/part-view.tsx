import { ViewTitle } from "../../ui/view-title.tsx";
import { useQuery } from "@tanstack/react-query";
import { type ReactNode, useCallback, useEffect } from "react";
import { useLocation, useNavigate, useParams } from "react-router";
import type { MachineEvent } from "../../../../core/events/machine-event.ts";
import { RequestFailed } from "../../api/client.ts";
import { counterQuery, machineQuery } from "../../api/queries.ts";
import { SectionLink } from "../../time/section-link.tsx";
import { BandNav } from "./band-nav.tsx";
import { BandRow } from "./band-row.tsx";
import { type PartKind, partBands } from "../../shared/bands/part-bands.ts";
import { useEvents } from "./use-events.ts";

/** The page of a guest or a container: bands as a machine has them. */
export function PartView({ kind }: { kind: PartKind }): ReactNode {
  const { name = "", part = "" } = useParams();
  const machine = useQuery(machineQuery(name));
  const { hash } = useLocation();
  const counters = machine.data?.counters;
  const isThere = counters !== undefined;
  const events = useEvents(
    useCallback(
      (event: MachineEvent) => event.machine === name && (event.tags[kind] === part || event.tags[kind] === undefined),
      [name, kind, part],
    ),
  );
  useEffect(() => {
    if (isThere && hash) document.getElementById(hash.slice(1))?.scrollIntoView();
  }, [hash, isThere]);
  if (machine.error instanceof RequestFailed && machine.error.status === 404) {
    return (
      <section>
        <ViewTitle words={part} className="text-xl font-bold" />
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
  const shown = partBands(kind, part).filter((band) => band.counters.some((counter) => counters?.includes(counter)));
  const siblings = (kind === "guest" ? machine.data?.guests : machine.data?.containers) ?? [];
  return (
    <>
      <div className="z-10 flex flex-wrap items-baseline gap-x-5 gap-y-1 border-b border-ink bg-paper pt-2 pb-3 md:sticky md:top-[46px]">
        <ViewTitle words={part} tab={`${part} of ${name}`} />
        <p className="text-quiet">
          {kind} of{" "}
          <SectionLink to={`/machines/${encodeURIComponent(name)}#${kind}s`} className="word-link">
            {machine.data?.friendlyName || name}
          </SectionLink>
          <PartTags kind={kind} machine={name} part={part} />
        </p>
        <PartSwitch kind={kind} machine={name} part={part} siblings={siblings} />
        <BandNav bands={shown} />
      </div>
      {machine.isPending && <p className="py-8 text-quiet">reading …</p>}
      {machine.error && (
        <p role="alert" className="py-4">
          {machine.error.message}
        </p>
      )}
      {machine.data && !siblings.includes(part) && (
        <p className="border-b border-hairline py-2">
          Nothing has been heard of it in the last hours; what is kept of it stands below.
        </p>
      )}
      {counters &&
        shown.map((band) => (
          <BandRow
            key={`${name} ${part} ${band.id}`}
            band={band}
            machine={name}
            subject={part}
            counters={counters}
            events={events}
          />
        ))}
    </>
  );
}

/** The image of a container, and labels that rules keep as tags. */
function PartTags({ kind, machine, part }: { kind: PartKind; machine: string; part: string }): ReactNode {
  const series = useQuery(counterQuery(`${kind}.cpu.time`)).data?.newest.find(
    ({ tags }) => tags["machine"] === machine && tags[kind] === part,
  );
  const own = Object.entries(series?.tags ?? {}).filter(
    ([tag]) => !["machine", kind, "mode", "direction"].includes(tag),
  );
  return own.map(([tag, value]) => (
    <span key={tag}>
      {" "}
      · {tagWords(tag)} {value}
    </span>
  ));
}

/** A tag as people say it: labels of a container stand under the name that they have there. */
const tagWords = (tag: string): string => tag.replace(/^label\./, "").replace(/[._]/g, " ");

/** Another of the same kind in its place; band and window stay. */
function PartSwitch({
  kind,
  machine,
  part,
  siblings,
}: {
  kind: PartKind;
  machine: string;
  part: string;
  siblings: readonly string[];
}): ReactNode {
  const navigate = useNavigate();
  const { search, hash } = useLocation();
  if (siblings.length < 2) return null;
  return (
    <label className="text-quiet">
      look at{" "}
      <select
        className="part"
        value={part}
        onChange={(event) =>
          navigate(
            `/machines/${encodeURIComponent(machine)}/${kind}s/${encodeURIComponent(event.target.value)}${search}${hash}`,
          )
        }
      >
        {!siblings.includes(part) && <option>{part}</option>}
        {siblings.map((name) => (
          <option key={name}>{name}</option>
        ))}
      </select>
    </label>
  );
}
