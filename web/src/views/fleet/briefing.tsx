import { Called } from "../../shared/machines/called.tsx";
import { SmallStrip } from "../../shared/charts/small-strip.tsx";
import { useQuery } from "@tanstack/react-query";
import type { ReactNode } from "react";
import type { BriefingLine, Piece } from "../../../../core/briefing/briefing.ts";
import { briefingQuery } from "../../api/queries.ts";
import { SectionLink } from "../../time/section-link.tsx";
import { Signal } from "../../ui/signal.tsx";
import { clockTime, dayOf, nearMomentText, weekdayAndHour } from "../../time/moments.ts";
import { useTime } from "../../time/time-provider.tsx";
import { searchWithWindow } from "../../time/time-window.ts";

const minuteMs = 60_000;
const dayMs = 1440 * minuteMs;
const stripPx = 18;
/** The place keeps its height while it is read, so that nothing below jumps. */
const reserved = "min-h-[3.75rem]";

/** What is worth a look, in a few computed sentences; each leads to the view and the window that show it. */
export function Briefing(): ReactNode {
  const lines = useQuery(briefingQuery);
  return (
    <section aria-label="Briefing" className={`border-b border-ink pb-3 ${reserved}`} data-briefing>
      {lines.error && (
        <p role="alert" className="text-urgent">
          {lines.error.message}
        </p>
      )}
      {lines.isPending && <p className="text-quiet">reading …</p>}
      <Sentences lines={lines.data?.filter(({ part }) => part === undefined) ?? []} />
      {lines.data?.some(({ part }) => part === "week") && (
        <>
          <h2 className="mt-2 text-[13px] text-quiet">This week</h2>
          <Sentences lines={lines.data.filter(({ part }) => part === "week")} />
        </>
      )}
    </section>
  );
}

const Sentences = ({ lines }: { lines: readonly BriefingLine[] }): ReactNode => (
  <ul className="grid gap-x-10 gap-y-1 md:grid-cols-2">
    {lines.map((line) => (
      <BriefingSentence key={JSON.stringify(line.pieces)} line={line} />
    ))}
  </ul>
);

function BriefingSentence({
  line: { signal, severity, pieces, path, window, drawn },
}: {
  line: BriefingLine;
}): ReactNode {
  const { nowMs } = useTime();
  const toMs = Math.floor(nowMs / minuteMs) * minuteMs;
  const [place, hash] = path.split("#");
  const search = window ? `?${searchWithWindow(new URLSearchParams(), { kind: "fixed", ...window })}` : "";
  return (
    <li className="grid grid-cols-[12px_minmax(0,1fr)_5.5rem] items-start gap-2.5 leading-[1.45]">
      <span className="pt-[5px]">
        <Signal of={signal} severity={severity} />
      </span>
      <SectionLink to={`${place}${search}${hash ? `#${hash}` : ""}`} className="min-w-0 hover:underline">
        {pieces.map((piece, i) => (
          // biome-ignore lint/suspicious/noArrayIndexKey: a piece is its place in the sentence
          <PieceText key={i} piece={piece} />
        ))}
      </SectionLink>
      {drawn && (
        <span aria-hidden="true" className="pt-0.5">
          <SmallStrip reading={drawn} span={window ?? { fromMs: toMs - dayMs, toMs }} height={stripPx} />
        </span>
      )}
    </li>
  );
}

function PieceText({ piece }: { piece: Piece }): ReactNode {
  const { nowMs } = useTime();
  switch (piece.kind) {
    case "text":
      return piece.text;
    case "strong":
      return <strong>{piece.text}</strong>;
    case "machine":
      return (
        <span className="border-b border-hairline">
          <Called machine={piece.text} />
        </span>
      );
    case "clock":
      return <Clock words={nearMomentText(piece.atMs, nowMs)} />;
    case "span":
      return (
        <>
          <Clock words={nearMomentText(piece.fromMs, nowMs)} /> to{" "}
          <Clock
            words={
              dayOf(piece.fromMs) === dayOf(piece.toMs) ? clockTime(piece.toMs) : nearMomentText(piece.toMs, nowMs)
            }
          />
        </>
      );
    case "weekdayAndHour":
      return weekdayAndHour(piece.atMs);
  }
}

const Clock = ({ words }: { words: string }): ReactNode => <span className="moment whitespace-nowrap">{words}</span>;
