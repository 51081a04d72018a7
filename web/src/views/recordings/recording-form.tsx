import { Beside } from "../../ui/beside.tsx";
import { WhatIsRecorded } from "./what-is-recorded.tsx";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { type ReactNode, useState } from "react";
import { changeRecording, makeRecording, type RecordingView } from "../../../../core/api/recordings.ts";
import type { Sentence } from "../../../../core/reading/document.ts";
import { namedSentences, type RecordingDocument } from "../../../../core/recordings/recording.ts";
import { presentSpan } from "../../../../core/units/present.ts";
import { call } from "../../api/client.ts";
import { SelectPart } from "../../sentence/select-part.tsx";
import { withoutIdle } from "../../../../core/reading/idle.ts";
import { NumberField } from "../../ui/number-field.tsx";
import { ForecastPart } from "./forecast-part.tsx";
import { SchedulePart } from "./schedule-part.tsx";
import { SentenceList } from "./sentence-list.tsx";

const intervals = [1, 2, 5, 10, 15, 30, 60, 120, 300, 600, 900, 1800, 3600];
const lengths = [60, 240, 900, 1800, 3600, 14_400, 86_400, 604_800];

interface RecordingFormProps {
  /** With its number where it is changed, without where it is new. */
  readonly begin: RecordingDocument & { readonly id?: number };
  readonly onSaved: (saved: RecordingView) => void;
  readonly onLeave: () => void;
}

/** A recording is made or changed: its sentences, its interval, when it runs and when it ends, and what that costs. */
export function RecordingForm({ begin, onSaved, onLeave }: RecordingFormProps): ReactNode {
  const queries = useQueryClient();
  const { id, ...first } = begin;
  const [document, setDocument] = useState<RecordingDocument>(first);
  const sentences = Object.values(namedSentences(document.sentences));
  const set = (change: { readonly [K in keyof RecordingDocument]?: RecordingDocument[K] | undefined }) =>
    setDocument(
      (now) =>
        Object.fromEntries(
          Object.entries({ ...now, ...change }).filter(([, value]) => value !== undefined),
        ) as unknown as RecordingDocument,
    );
  const asked = { ...document, sentences: askedSentences(document, sentences) };
  const save = useMutation({
    mutationFn: () => (id === undefined ? call(makeRecording, {}, asked) : call(changeRecording, { id }, asked)),
    onSuccess: async (saved) => {
      await queries.invalidateQueries({ queryKey: ["recordings"] });
      onSaved(saved);
    },
  });
  const hasDay = document.schedule === undefined || document.schedule.weekdays.length > 0;
  return (
    <Beside
      label="What it would record"
      aside={
        <>
          <WhatIsRecorded sentences={Object.values(namedSentences(asked.sentences))} />
          <ForecastPart document={asked} onEvery={(everySeconds) => set({ everySeconds })} />
        </>
      }
    >
      <div data-recording-form>
        <label className="mt-4 block">
          <span className="block text-[13px] text-quiet">Name</span>
          <input
            value={document.name}
            maxLength={200}
            placeholder="morning, before the new drives"
            onChange={(event) => set({ name: event.target.value })}
            className="w-96 max-w-full"
          />
        </label>
        <div className="mt-2">
          <SentenceList sentences={sentences} onChange={(next) => set({ sentences: keptNames(document, next) })} />
        </div>
        <p className="mt-3 leading-8">
          It gathers every{" "}
          <SelectPart
            label="interval"
            value={String(document.everySeconds)}
            options={spans(intervals)}
            onChange={(value) => set({ everySeconds: Number(value) })}
          />{" "}
          for{" "}
          <SelectPart
            label="length of a run"
            value={String(document.forSeconds ?? "")}
            options={[["", "as long as it is told, 31 days at most"], ...spans(lengths)]}
            onChange={(value) => set({ forSeconds: value === "" ? undefined : Number(value) })}
          />
          , or until it has taken{" "}
          <NumberField
            label="most samples"
            value={document.mostSamples}
            usual="any number of"
            least={1}
            most={1_000_000_000}
            className="w-36"
            onChange={(mostSamples) => set({ mostSamples })}
          />{" "}
          samples or{" "}
          <NumberField
            label="most disk in MB"
            value={document.mostBytes === undefined ? undefined : document.mostBytes / 1e6}
            usual="any number of"
            least={1}
            most={1_000_000}
            className="w-36"
            onChange={(megabytes) => set({ mostBytes: megabytes === undefined ? undefined : megabytes * 1e6 })}
          />{" "}
          MB, or the disk is nearly full. Its reports are kept{" "}
          <NumberField
            label="days that reports are kept"
            className="w-36"
            value={document.keepDays}
            usual="for good, or"
            least={1}
            most={3660}
            onChange={(keepDays) => set({ keepDays })}
          />{" "}
          days.
        </p>
        <SchedulePart schedule={document.schedule} onChange={(schedule) => set({ schedule })} />
        {save.error && (
          <p role="alert" className="mt-2 text-urgent">
            {save.error.message}
          </p>
        )}
        <p className="mt-4 flex gap-3">
          <button
            type="button"
            className="act"
            disabled={save.isPending || document.name.trim() === "" || !hasDay}
            onClick={() => save.mutate()}
          >
            {save.isPending ? "saving …" : id === undefined ? "Make it" : "Save it"}
          </button>
          <button type="button" className="act-plain" onClick={onLeave}>
            Leave it
          </button>
        </p>
      </div>
    </Beside>
  );
}

const spans = (seconds: readonly number[]) =>
  seconds.map((one): readonly [string, string] => [String(one), presentSpan(one * 1000)]);

/** The sentences without conditions that say nothing yet, in the form that the recording has. */
function askedSentences({ sentences }: RecordingDocument, all: readonly Sentence[]): RecordingDocument["sentences"] {
  const names = Object.keys(namedSentences(sentences));
  const plain = withoutIdle({
    sentences: Object.fromEntries(all.map((one, i) => [names[i] as string, one])),
  }).sentences;
  return Array.isArray(sentences) ? Object.values(plain) : plain;
}

/** Names of one's own stay with sentences of their place; where their number changes, it is a list again. */
function keptNames({ sentences }: RecordingDocument, next: readonly Sentence[]): RecordingDocument["sentences"] {
  if (Array.isArray(sentences)) return next;
  const names = Object.keys(sentences);
  return names.length === next.length ? Object.fromEntries(next.map((one, i) => [names[i] as string, one])) : next;
}
