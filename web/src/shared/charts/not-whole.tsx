import type { ReactNode } from "react";
import { type Drawn, onOneAnother } from "../../../../core/drawing/drawings.ts";
import { keepWords } from "../../../../core/reading/sentence-words.ts";
import type { OpenReading } from "../../sentence/reading-address.ts";

interface NotWholeProps {
  readonly reading: OpenReading;
  readonly drawn: Drawn;
  /** Takes the reading with the rest in it; nothing is offered without. */
  readonly onChange?: (reading: OpenReading) => void;
}

/** Says of lines that lie on one another that they are not all: their upper edge is not the whole. */
export function NotWhole({ reading, drawn, onChange }: NotWholeProps): ReactNode {
  const partly = Object.values(reading.sentences).find(({ keep }) => keep && !keep.rest);
  if (!partly?.keep || !onOneAnother(drawn) || reading.figure !== undefined) return null;
  const withRest = (): OpenReading => ({
    ...reading,
    sentences: Object.fromEntries(
      Object.entries(reading.sentences).map(([name, one]) => [
        name,
        one.keep ? { ...one, keep: { ...one.keep, rest: true } } : one,
      ]),
    ),
  });
  return (
    <p className="text-[13px] text-quiet" data-not-whole>
      Drawn are {keepWords(partly.keep)} alone: the upper edge is not the whole.{" "}
      {onChange && (
        <button type="button" className="word-link" onClick={() => onChange(withRest())}>
          add the rest as one more layer
        </button>
      )}
    </p>
  );
}
