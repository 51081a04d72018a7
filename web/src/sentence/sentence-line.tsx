import type { OpenReading } from "./reading-address.ts";
import type { FindNamed } from "./named-reading.ts";
import { useQuery } from "@tanstack/react-query";
import type { ReactNode } from "react";
import { naturalReduction } from "../../../core/counters/catalogue.ts";
import type { Condition, Sentence } from "../../../core/reading/document.ts";
import { earlierTimes, earlierWords, ofEveryWords } from "../../../core/reading/sentence-words.ts";
import { counterQuery, countersQuery } from "../api/queries.ts";
import { ConditionPart, MachinePart } from "./condition-part.tsx";
import { sentenceOf } from "./said.ts";
import { CounterPart } from "./counter-part.tsx";
import { CombinePart, KeepPart, LinesPart } from "./lines-part.tsx";
import { SelectPart } from "./select-part.tsx";

interface SentenceLineProps {
  readonly sentence: Sentence;
  readonly onChange: (sentence: Sentence) => void;
  /** How the values are presented, and the length of a step: parts of the whole reading where there is one sentence. */
  readonly presented: ReactNode;
  readonly step: ReactNode;
  /** One of several may be read at an earlier time than the others; one alone is put beside it instead. */
  readonly several: boolean;
  /** What people ask for by name, that stands for the whole reading; offered before the counters. */
  readonly figures?: FindNamed | undefined;
  readonly onFigure?: ((reading: OpenReading) => void) | undefined;
}

/** One sentence, each of its parts a control; a change takes effect at once. */
export function SentenceLine({
  sentence,
  onChange,
  presented,
  step,
  several,
  figures,
  onFigure,
}: SentenceLineProps): ReactNode {
  const counters = useQuery(countersQuery).data;
  const counter = counters?.find(({ name }) => name === sentence.counter);
  const known =
    useQuery({ ...counterQuery(sentence.counter), enabled: sentence.counter !== "" }).data?.tags ?? counter?.tags ?? [];
  const where = sentence.where ?? [];
  const others = where.filter(({ tag }) => tag !== "machine");
  const machines = where.filter(({ tag }) => tag === "machine");
  const free = known.find(({ tag }) => tag !== "machine" && !others.some((one) => one.tag === tag));
  const set = (change: { readonly [K in keyof Sentence]?: Sentence[K] | undefined }) =>
    onChange(withoutUndefined({ ...sentence, ...change }));
  const setWhere = (next: readonly Condition[]) => set({ where: next.length === 0 ? undefined : next });
  const lines = sentence.lines ?? "each";
  const tags = known.filter(({ tag }) => tag !== "le").map(({ tag }) => tag);
  const combine = sentence.combine ?? (counter ? naturalReduction(counter).combine : "sum");
  return (
    <p className="leading-8" data-sentence>
      Show{" "}
      <CounterPart
        name={sentence.counter}
        words={counter?.words ?? sentence.counter}
        onChange={(name) => onChange(sentenceOf(name, sentence))}
        figures={figures}
        onFigure={onFigure}
      />{" "}
      of <MachinePart where={where} known={known} onChange={setWhere} />
      {others.map((condition, i) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: a condition is its place in the sentence
        <span key={i}>
          {" "}
          {i === 0 ? "where" : "and"}{" "}
          <ConditionPart
            condition={condition}
            known={known}
            onChange={(changed) =>
              setWhere([...machines, ...others.flatMap((one, k) => (k === i ? (changed ? [changed] : []) : [one]))])
            }
          />
        </span>
      ))}
      {free && (
        <>
          {" "}
          <button
            type="button"
            className="word-link text-[13px]"
            onClick={() => setWhere([...machines, ...others, { tag: free.tag, is: [] }])}
          >
            {others.length === 0 ? "where …" : "and …"}
          </button>
        </>
      )}
      {presented && <> {presented}</>},{" "}
      <SelectPart
        label="what is kept of a step"
        value={sentence.of_every ?? "mean"}
        options={Object.entries(ofEveryWords)}
        onChange={(value) => set({ of_every: value === "mean" ? undefined : (value as Sentence["of_every"]) })}
      />{" "}
      of every {step},{" "}
      <LinesPart
        lines={lines}
        tags={tags}
        onChange={(next) =>
          set({ lines: next === "each" ? undefined : next, combine: next === "each" ? undefined : combine })
        }
      />
      {lines !== "each" && (
        <>
          {" "}
          <CombinePart combine={combine} onChange={(next) => set({ combine: next })} />
        </>
      )}
      {sentence.keep && ","} <KeepPart keep={sentence.keep} onChange={(keep) => set({ keep })} />
      {(several || sentence.earlier !== undefined) && (
        <>
          {sentence.earlier !== undefined && ","}{" "}
          <SelectPart
            label="read earlier"
            quiet={sentence.earlier === undefined}
            value={sentence.earlier ?? ""}
            options={[
              ["", sentence.earlier === undefined ? "earlier …" : "no earlier"],
              ...earlierTimes.map((span): readonly [string, string] => [span, earlierWords(span)]),
            ]}
            onChange={(span) => set({ earlier: span === "" ? undefined : span })}
          />
        </>
      )}
    </p>
  );
}

/** What has not been said is not kept; what means nothing is kept while it is being said. */
function withoutUndefined(sentence: { readonly [K in keyof Sentence]?: Sentence[K] | undefined }): Sentence {
  return Object.fromEntries(Object.entries(sentence).filter(([, value]) => value !== undefined)) as unknown as Sentence;
}
