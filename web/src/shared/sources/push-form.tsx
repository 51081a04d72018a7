import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { type ReactNode, useState } from "react";
import { makeSource } from "../../../../core/api/sources.ts";
import { makeToken } from "../../../../core/api/tokens.ts";
import { call } from "../../api/client.ts";
import { sourcesQuery, transportQuery } from "../../api/queries.ts";
import { SectionLink } from "../../time/section-link.tsx";
import { Signal } from "../../ui/signal.tsx";
import { useTime } from "../../time/time-provider.tsx";
import { signalOf, stateWords } from "./source-words.ts";
import { IntervalField, sendingIntervals } from "./interval-field.tsx";
import { Paste } from "./paste.tsx";
import { ReachedAt, useReachedAt } from "./reached-at.tsx";
import { Stage } from "./stage.tsx";
import {
  csvCommand,
  curlCommand,
  linuxCommand,
  otlpSettings,
  relayCommand,
  type Sending,
  windowsCommand,
} from "./sending.ts";

export type Sender = "linux" | "windows" | "otlp" | "text" | "csv" | "relay";

const defaultSeconds: Readonly<Record<Sender, number>> = {
  linux: 15,
  windows: 15,
  otlp: 60,
  text: 60,
  csv: 300,
  relay: 15,
};
/** What a collector keeps while the server is away may be older than the day that a sender may otherwise write back. */
const keptDays = 7;
/** A relay keeps what it has until there is no room. */
const relayKeptDays = 60;

/** Connecting what sends: a name, then a text to paste with everything in it, then waiting until it is heard. */
export function PushForm({ sender }: { sender: Sender }): ReactNode {
  const queries = useQueryClient();
  const pin = useHousePin();
  const place = useReachedAt();
  const [name, setName] = useState("");
  const [seconds, setSeconds] = useState(defaultSeconds[sender]);
  const make = useMutation({
    mutationFn: async () => {
      const called = name.trim();
      const source = await call(
        makeSource,
        {},
        {
          ...(sender === "linux" || sender === "windows"
            ? { kind: "collector", backDays: keptDays }
            : sender === "relay"
              ? { kind: "relay", backDays: relayKeptDays }
              : { kind: "push" }),
          name: called,
          machine: called,
          intervalMs: seconds * 1000,
        },
      );
      const { token } = await call(makeToken, {}, { name: called, scope: "write", sourceId: source.id });
      await queries.invalidateQueries({ queryKey: ["sources"] });
      return { source, token };
    },
  });
  return (
    <>
      <form
        aria-label="Its name"
        className="py-4"
        onSubmit={(event) => {
          event.preventDefault();
          make.mutate();
        }}
      >
        <Stage n={2} words="What do you call it?" />
        <fieldset disabled={make.isSuccess} className="flex flex-wrap items-start gap-4">
          <label>
            call it{" "}
            <input
              required
              name="name"
              maxLength={100}
              value={name}
              onChange={(event) => setName(event.target.value)}
              placeholder="vault"
              className="ml-1 w-52"
            />
          </label>
          <span>
            it sends <IntervalField seconds={seconds} onChange={setSeconds} series={undefined} of={sendingIntervals} />
          </span>
        </fieldset>
        {!make.isSuccess && (
          <button type="submit" className="act mt-4" disabled={make.isPending}>
            {make.isPending ? "making …" : "Make its token"}
          </button>
        )}
        {make.error && (
          <p role="alert" className="py-2 text-urgent">
            {make.error.message}
          </p>
        )}
      </form>
      {make.data && (
        <>
          <Stage n={3} words={pasteWords[sender]} />
          <p className="max-w-prose text-quiet">
            The token in it may only write, and only for this source. It is shown now and never again.
          </p>
          <ReachedAt place={place} />
          <SenderTexts sender={sender} sending={{ origin: place.chosen, token: make.data.token, pin }} />
          <Heard id={make.data.source.id} />
        </>
      )}
    </>
  );
}

/** The key of the server where its certificate is the house's own: others do not know that issuer. */
export function useHousePin(): string | null {
  const transport = useQuery(transportQuery).data;
  return transport?.kind === "house" ? transport.pin : null;
}

const pasteWords: Readonly<Record<Sender, string>> = {
  linux: "Paste this on the machine",
  windows: "Paste this on the machine, in a command prompt of an administrator",
  otlp: "Give these settings to what sends",
  text: "Send from anything that can do HTTP",
  csv: "Send tables from anything that can do HTTP",
  relay: "Paste this on a machine at that site which has Nubrel",
};

export function SenderTexts({ sender, sending }: { sender: Sender; sending: Sending }): ReactNode {
  switch (sender) {
    case "linux":
      return (
        <>
          <Paste
            label="It needs sh, awk and curl, installs itself as a service, and is removed by: sh nubrel-collector remove"
            text={linuxCommand(sending)}
          />
          <p className="max-w-prose text-quiet">
            To look first: fetch it without the second half of the line and read it; it is one file of plain shell.
          </p>
        </>
      );
    case "windows":
      return (
        <Paste
          label="It runs Windows' own counter tool and curl, until its window is closed"
          text={windowsCommand(sending)}
        />
      );
    case "otlp":
      return <Paste label="OTLP over HTTP, protobuf or JSON" text={otlpSettings(sending)} />;
    case "relay":
      return (
        <Paste
          label="It runs until it is stopped; started again, nubrel relay alone goes on"
          text={relayCommand(sending)}
        />
      );
    case "text":
      return (
        <Paste
          label="One line a value; a page of OpenMetrics or text exposition works as well"
          text={curlCommand(sending)}
        />
      );
    case "csv":
      return (
        <Paste label="A header, then a line for each time; the first column is the time" text={csvCommand(sending)} />
      );
  }
}

/** Waits until the source has been heard, and says so. */
function Heard({ id }: { id: number }): ReactNode {
  const { nowMs } = useTime();
  const source = useQuery(sourcesQuery).data?.find((one) => one.id === id);
  if (!source) return null;
  return (
    <p className="flex items-center gap-2 py-4" aria-live="polite" data-heard={source.state}>
      <Signal of={signalOf(source)} />
      {source.heardMs === null ? (
        "Nothing has come yet. This line changes as soon as something does."
      ) : (
        <>
          Heard: {source.taken?.toLocaleString("en") ?? 0} values taken.{" "}
          {stateWords(source, Math.max(nowMs, source.heardMs))}.
        </>
      )}
      <SectionLink to={`/sources/${id}`} className="word-link">
        Its page
      </SectionLink>
    </p>
  );
}
