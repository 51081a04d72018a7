import { Beside } from "../../ui/beside.tsx";
import { ConnectedAlready } from "./connected-already.tsx";
import { wayFacts } from "./way-facts.ts";
import { WayWords } from "./way-words.tsx";
import type { WayToConnect } from "../../../../core/sources/kinds/device-kind.ts";
import type { ReactNode } from "react";
import { useSearchParts } from "../../ui/use-search-parts.ts";
import { SourcesHeading } from "../../shared/sources/sources-heading.tsx";
import { type Device, deviceKindNames, deviceKinds } from "../../../../core/sources/kinds/device-kinds.ts";
import { DeviceForm } from "./device-form.tsx";
import { PullForm } from "./pull-form.tsx";
import { PushForm, type Sender } from "../../shared/sources/push-form.tsx";
import { Stage } from "../../shared/sources/stage.tsx";

interface Way extends WayToConnect {
  readonly by: Sender | "pull" | { readonly device: Device["kind"] };
}

/** Every way to connect, in the order in which people have them. */
export const ways: readonly Way[] = [
  {
    id: "linux",
    has: "a Linux machine",
    what: "processor, memory, disks, filesystems, network, processes; by one shell file with what it already has",
    by: "linux",
  },
  {
    id: "containers",
    has: "a container host",
    what: "the same, and every container by its control group",
    by: "linux",
  },
  {
    id: "hypervisor",
    has: "a hypervisor that runs Linux",
    what: "the same, and its guests with their disks and network",
    by: "linux",
  },
  { id: "storage", has: "a storage box that runs Linux", what: "the same, and its pools and drives", by: "linux" },
  { id: "windows", has: "a Windows machine", what: "counters by the tool that Windows ships", by: "windows" },
  ...deviceKindNames.flatMap((device) => deviceKinds[device].ways.map((way) => ({ ...way, by: { device } }))),
  {
    id: "page",
    has: "something that serves a page of counters",
    what: "OpenMetrics or the older text form: give its address and try",
    by: "pull",
  },
  {
    id: "otlp",
    has: "something that sends OTLP",
    what: "applications and hypervisors that speak OpenTelemetry",
    by: "otlp",
  },
  { id: "script", has: "a script of my own", what: "lines of text over HTTP, from anything", by: "text" },
  {
    id: "site",
    has: "another site, which this server does not reach",
    what: "a relay there gathers its machine and whatever answers in its network, and sends when there is a link",
    by: "relay",
  },
  { id: "tables", has: "tables (CSV)", what: "readings with their times, from a logger or a sheet", by: "csv" },
];

/** Connecting step by step; it starts from what the person has. */
export function ConnectView(): ReactNode {
  const [search, setSearch] = useSearchParts();
  const chosen = ways.find(({ id }) => id === search.get("what"));
  const choose = (id: string | undefined) =>
    setSearch((before) => {
      const next = new URLSearchParams(before);
      if (id === undefined) next.delete("what");
      else next.set("what", id);
      return next;
    });
  const facts = chosen && wayFacts[chosen.id];
  return (
    <>
      <SourcesHeading />
      <Beside
        label={chosen ? "What you will see" : "Connected already"}
        aside={<div className="lg:pt-4">{facts ? <WayWords facts={facts} /> : <ConnectedAlready />}</div>}
      >
        <div className="pt-4">
          <Stage n={1} words={chosen ? `I have ${chosen.has}` : "What do you have?"} />
        </div>
        {chosen ? (
          <>
            <button type="button" className="word-link" onClick={() => choose(undefined)}>
              Something else
            </button>
            {typeof chosen.by === "object" ? (
              <DeviceForm key={chosen.id} kind={chosen.by.device} />
            ) : chosen.by === "pull" ? (
              <PullForm />
            ) : (
              <PushForm key={chosen.id} sender={chosen.by} />
            )}
          </>
        ) : (
          <ul>
            {ways.map(({ id, has, what }) => (
              <li key={id} className="border-t border-hairline">
                <button
                  type="button"
                  className="grid w-full gap-x-6 py-2.5 text-left hover:bg-wash sm:grid-cols-[15rem_1fr]"
                  onClick={() => choose(id)}
                >
                  <span className="font-bold text-act">{has}</span>
                  <span className="text-quiet">{what}</span>
                </button>
              </li>
            ))}
          </ul>
        )}
      </Beside>
    </>
  );
}
