import type { FindNamed } from "./named-reading.ts";
import { useQuery } from "@tanstack/react-query";
import { type ReactNode, useState } from "react";
import { onlyGrows } from "../../../core/counters/counter.ts";
import type { As, Sentence } from "../../../core/reading/document.ts";
import { presentationOf, presentations, presentedAs } from "../../../core/reading/presented-as.ts";
import { earlierTimes, earlierWords, stepWords } from "../../../core/reading/sentence-words.ts";
import { countersQuery } from "../api/queries.ts";
import { type Drawn, drawings, drawnNames } from "../../../core/drawing/drawings.ts";
import { FigurePart } from "./figure-part.tsx";
import { JsonPart } from "./json-part.tsx";
import { NamePart } from "./name-part.tsx";
import type { OpenReading } from "./reading-address.ts";
import { SelectPart } from "./select-part.tsx";
import { SentenceLine } from "./sentence-line.tsx";
import { renamed, withoutSentence, withSentence } from "./several.ts";

const steps = [1, 5, 10, 15, 30, 60, 300, 900, 1800, 3600, 10_800, 21_600, 86_400];

interface ReadingEditorProps {
  readonly reading: OpenReading;
  /** Null where it is chosen elsewhere, among miniatures say. */
  readonly drawn: Drawn | null;
  /** The step that the answer has, where it chooses itself. */
  readonly stepMs: number | undefined;
  /** What people ask for by name: offered where a counter is chosen. */
  readonly figures?: FindNamed;
  readonly onChange: (reading: OpenReading, drawn: Drawn) => void;
}

/**
 * The one editor of what is drawn: sentences whose parts are controls, arithmetic between them, and the document
 * behind.
 */
export function ReadingEditor({ reading, drawn, stepMs, figures, onChange }: ReadingEditorProps): ReactNode {
  const counters = useQuery(countersQuery).data ?? [];
  const { figure: _figure, unit: _unit, ...plain } = reading;
  const [shown, setShown] = useState(false);
  const all = Object.entries(reading.sentences);
  const names = all.map(([name]) => name);
  const set = (next: OpenReading) => onChange(next, drawn ?? "lines");
  const setSentence = (name: string, sentence: Sentence) => {
    // A unit is chosen for a counter: another counter begins with its own.
    const { figure, unit, ...rest } = reading;
    const keeps = !isSimple || sentence.counter === reading.sentences[name]?.counter;
    set({
      ...rest,
      ...(keeps && figure !== undefined && { figure }),
      ...(keeps && unit !== undefined && { unit }),
      sentences: { ...reading.sentences, [name]: sentence },
    });
  };
  const counterOf = (sentence: Sentence) => counters.find((one) => one.name === sentence.counter);
  const [onlyName, only] = all[0] as [string, Sentence];
  const info = counterOf(only);
  const presentation = info && all.length === 1 ? presentationOf(reading, info.kind, info.unit) : undefined;
  const isSimple = all.length === 1 && (presentation !== undefined || reading.figure === undefined);
  const automatic = stepMs === undefined ? "step" : stepWords(stepMs / 1000);
  const step = (
    <SelectPart
      label="length of a step"
      value={String(reading.step ?? "auto")}
      options={[
        ["auto", automatic],
        ...steps.map((seconds): readonly [string, string] => [String(seconds), stepWords(seconds)]),
      ]}
      onChange={(value) => {
        const { step: _, ...rest } = reading;
        set(value === "auto" ? rest : { ...rest, step: Number(value) });
      }}
    />
  );
  const presentedPart = (name: string, sentence: Sentence): ReactNode => {
    const counter = counterOf(sentence);
    if (!counter) return null;
    const ways = presentations(counter.kind, counter.unit);
    if (isSimple && presentation) {
      if (ways.length < 2) return null;
      return (
        <>
          as{" "}
          <SelectPart
            label="how it is presented"
            value={presentation.words}
            options={ways.map(({ words }) => [words, words])}
            onChange={(words) =>
              set(presentedAs(reading, counter.kind, ways.find((way) => way.words === words) ?? presentation))
            }
          />
        </>
      );
    }
    const natural: As = onlyGrows(counter.kind) ? "rate" : "value";
    const own = ways.filter(({ factor }) => factor === 1);
    if (own.length < 2) return null;
    return (
      <>
        as{" "}
        <SelectPart
          label="how it is read"
          value={sentence.as ?? natural}
          options={own.map(({ as, words }) => [as, words])}
          onChange={(as) => {
            const { as: _, ...rest } = sentence;
            setSentence(name, as === natural ? rest : { ...rest, as: as as As });
          }}
        />
      </>
    );
  };
  return (
    <div data-reading-editor>
      {all.map(([name, sentence]) => (
        <div key={name} className={isSimple ? "" : "flex items-baseline gap-3 border-l-2 border-hairline pl-3"}>
          {!isSimple && <NamePart name={name} taken={names} onRename={(next) => set(renamed(reading, name, next))} />}
          <div className="min-w-0 grow">
            <SentenceLine
              sentence={sentence}
              onChange={(changed) => setSentence(name, changed)}
              presented={presentedPart(name, sentence)}
              step={step}
              several={!isSimple}
              figures={figures}
              onFigure={set}
            />
          </div>
          {!isSimple && all.length > 1 && (
            <button
              type="button"
              className="word-link shrink-0 text-[13px]"
              aria-label={`leave out ${name}`}
              onClick={() => set(withoutSentence(reading, name))}
            >
              leave out
            </button>
          )}
        </div>
      ))}
      {!isSimple && (
        <FigurePart
          figure={reading.figure ?? ""}
          unit={reading.unit ?? "1"}
          names={names}
          onChange={(figure, unit) => {
            const { figure: _, unit: __, ...rest } = reading;
            set(figure.trim() === "" ? rest : { ...rest, figure, unit });
          }}
        />
      )}
      <p className="flex flex-wrap items-baseline gap-x-4 gap-y-1 text-[13.5px]">
        <span>
          {drawn !== null && (
            <>
              drawn as{" "}
              <SelectPart
                label="drawn as"
                value={drawn}
                options={drawnNames.map((name) => [name, drawings[name].words] as const)}
                onChange={(kind) => onChange(reading, kind as Drawn)}
              />{" "}
            </>
          )}
          <BesidePart reading={reading} onChange={set} />
        </span>
        <button
          type="button"
          className="word-link"
          onClick={() => set(withSentence(isSimple ? plain : reading, onlyName, only))}
        >
          another sentence beside it
        </button>
        <button type="button" className="word-link" aria-expanded={shown} onClick={() => setShown(!shown)}>
          its document
        </button>
      </p>
      {shown && <JsonPart reading={reading} onChange={set} />}
    </div>
  );
}

/** What a reading stands beside: an earlier time, or what is usual. */
function BesidePart({
  reading,
  onChange,
}: {
  reading: OpenReading;
  onChange: (reading: OpenReading) => void;
}): ReactNode {
  return (
    <SelectPart
      label="beside an earlier time"
      quiet={!reading.usual && reading.beside === undefined}
      value={reading.usual ? "usual" : (reading.beside ?? "")}
      options={[
        ["", reading.usual || reading.beside !== undefined ? "beside nothing" : "beside …"],
        ["usual", "beside what is usual"],
        ...earlierTimes.map((span): readonly [string, string] => [span, `beside ${earlierWords(span)}`]),
      ]}
      onChange={(span) => {
        const { beside: _, usual: __, ...rest } = reading;
        onChange(span === "" ? rest : span === "usual" ? { ...rest, usual: true } : { ...rest, beside: span });
      }}
    />
  );
}
