import { useQuery } from "@tanstack/react-query";
import type { ReactNode } from "react";
import { subjectOf } from "../../../../core/counters/subject.ts";
import type { Sentence } from "../../../../core/reading/document.ts";
import { mostSentences } from "../../../../core/recordings/recording.ts";
import { countersQuery } from "../../api/queries.ts";
import { SentenceLine } from "../../sentence/sentence-line.tsx";

const startCounter = "system.cpu.time";

/**
 * What is recorded: a sentence each, said as everywhere. A whole subject of a machine is added as its counters, a
 * sentence each, so that no chart is made that nobody can read.
 */
export function SentenceList({
  sentences,
  onChange,
}: {
  sentences: readonly Sentence[];
  onChange: (sentences: readonly Sentence[]) => void;
}): ReactNode {
  const isFull = sentences.length >= mostSentences;
  return (
    <div data-sentence-list>
      <ol>
        {sentences.map((sentence, i) => (
          // biome-ignore lint/suspicious/noArrayIndexKey: a sentence is its place in the list
          <li key={i} className="flex items-baseline gap-3 border-l-2 border-hairline pl-3">
            <div className="min-w-0 grow">
              <SentenceLine
                sentence={sentence}
                onChange={(changed) => onChange(sentences.map((one, k) => (k === i ? changed : one)))}
                presented={null}
                step="interval"
                several={false}
              />
            </div>
            {sentences.length > 1 && (
              <button
                type="button"
                className="word-link shrink-0 text-[13px]"
                aria-label={`leave out sentence ${i + 1}`}
                onClick={() => onChange(sentences.filter((_, k) => k !== i))}
              >
                leave out
              </button>
            )}
          </li>
        ))}
      </ol>
      <div className="mt-1 flex flex-wrap items-baseline gap-x-4 gap-y-1 text-[13.5px]">
        <button
          type="button"
          className="word-link"
          disabled={isFull}
          onClick={() => onChange([...sentences, sentences.at(-1) ?? { counter: startCounter }])}
        >
          another sentence
        </button>
        <SubjectAdder onAdd={(added) => onChange(joined(sentences, added).slice(0, mostSentences))} />
        {isFull && <span className="text-quiet">{mostSentences} sentences are the most.</span>}
      </div>
    </div>
  );
}

/** Adds all counters of a machine's subject. */
function SubjectAdder({ onAdd }: { onAdd: (sentences: readonly Sentence[]) => void }): ReactNode {
  const counters = useQuery(countersQuery).data ?? [];
  const machines = [...new Set(counters.flatMap((counter) => counter.machines))].sort((a, b) => a.localeCompare(b));
  const subjects = [...new Set(counters.map(({ name }) => subjectOf(name)))].sort((a, b) => a.localeCompare(b));
  const add = (form: HTMLFormElement) => {
    const chosen = new FormData(form);
    const machine = String(chosen.get("machine") ?? "");
    const subject = String(chosen.get("subject") ?? "");
    onAdd(
      counters
        .filter(({ name, machines: of }) => subjectOf(name) === subject && of.includes(machine))
        .map(({ name }) => ({ counter: name, where: [{ tag: "machine", is: [machine] }] })),
    );
  };
  if (machines.length === 0) return null;
  return (
    <form
      className="inline"
      aria-label="A whole subject"
      onSubmit={(event) => {
        event.preventDefault();
        add(event.currentTarget);
      }}
    >
      or all of{" "}
      <select name="subject" className="part" aria-label="subject">
        {subjects.map((subject) => (
          <option key={subject} value={subject}>
            {subject}
          </option>
        ))}
      </select>{" "}
      of{" "}
      <select name="machine" className="part" aria-label="machine of the subject">
        {machines.map((machine) => (
          <option key={machine} value={machine}>
            {machine}
          </option>
        ))}
      </select>
      :{" "}
      <button type="submit" className="word-link">
        add them
      </button>
    </form>
  );
}

/** Those that are there are not said twice. */
function joined(sentences: readonly Sentence[], added: readonly Sentence[]): readonly Sentence[] {
  const known = new Set(sentences.map((one) => JSON.stringify(one)));
  return [...sentences, ...added.filter((one) => !known.has(JSON.stringify(one)))];
}
