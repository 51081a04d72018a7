import { useQuery } from "@tanstack/react-query";
import { type ReactNode, useState } from "react";
import type { Tile } from "../../../../../core/dashboards/dashboard.ts";
import { drawsTime, showsFigures, tileKinds } from "../../../../../core/dashboards/tile-kinds.ts";
import { type Picks, pickerTitle, pickWords } from "../../../../../core/dashboards/pickers.ts";
import { shownWords } from "../../../../../core/dashboards/shown-figures.ts";
import { sentenceText } from "../../../../../core/reading/sentence-words.ts";
import { countersQuery } from "../../../api/queries.ts";
import { StepsTable } from "../../../shared/charts/steps-table.tsx";
import { usePicks } from "../picks-provider.tsx";
import { LineRows, TableRows } from "../tiles/table-rows.tsx";
import { alonePoints, useTile } from "../tiles/use-tile.ts";

/**
 * From a tile to its data: its sentences and formula in words, the picks that hold, the numbers, the document behind.
 */
export function HowMade({ tile, picks }: { tile: Tile; picks: Picks }): ReactNode {
  const counters = useQuery(countersQuery).data;
  const { choices } = usePicks();
  const data = useTile(tile, picks, alonePoints);
  const [isEachStep, setIsEachStep] = useState(false);
  const wordsOf = (counter: string) => counters?.find(({ name }) => name === counter)?.words ?? counter;
  const stepSeconds = data.answer && data.answer.stepMs / 1000;
  const { reading } = data;
  const limits = (tile.limits ?? []).map(({ at, compare, severity }) => `${severity} ${compare} ${at}`);
  return (
    <section aria-labelledby="how-made" className="mt-6 max-w-4xl" data-how-made>
      <h2 id="how-made" className="border-b border-ink pb-1 font-bold">
        How it was made
      </h2>
      <dl className="mt-2 grid grid-cols-[9rem_minmax(0,1fr)] gap-x-4 gap-y-1.5 text-[14.5px]">
        {reading &&
          Object.entries(reading.sentences).map(([name, sentence]) => (
            <Fact
              key={name}
              name={Object.keys(reading.sentences).length > 1 || reading.figure !== undefined ? name : "sentence"}
            >
              {sentenceText(sentence, {
                words: wordsOf(sentence.counter),
                ...(stepSeconds !== undefined && { stepSeconds }),
              })}{" "}
              <code className="figure ml-1 text-[12.5px] text-quiet">{sentence.counter}</code>
            </Fact>
          ))}
        {reading?.figure !== undefined && (
          <Fact name="arithmetic">
            <code className="figure">{reading.figure}</code>
            {reading.unit && <span className="text-quiet"> in {reading.unit}</span>}
          </Fact>
        )}
        {tile.table && (
          <Fact name="table">
            {tile.table.rows.length === 1 ? "1 row" : `${tile.table.rows.length} rows`} of{" "}
            {tile.table.columns.map(({ name }) => name).join(", ")}, kept with the dashboard
          </Fact>
        )}
        {tileKinds[tile.kind].draws === "events" && (
          <Fact name="events">what happened in the window, told by engines, devices, scripts and people</Fact>
        )}
        {tileKinds[tile.kind].draws === "plan" && (
          <Fact name="made">as under Planning, where each figure tells how</Fact>
        )}
        <Fact name="drawn as">
          {tileKinds[tile.kind].words}
          {showsFigures(tile.kind) && `, of each the ${shownWords[tile.shows ?? (tile.table ? "rows" : "last")]}`}
        </Fact>
        {limits.length > 0 && <Fact name="limits">{limits.join("; ")}</Fact>}
        {data.by.length > 0 && (
          <Fact name="picks">
            {data.by
              .map(
                (picker) =>
                  `${pickerTitle(picker)} ${pickWords(picker, picks[picker.id] ?? [], choices(picker).length)}`,
              )
              .join("; ")}
          </Fact>
        )}
        {data.answer && !tile.table && (
          <Fact name="read from">
            {{ raw: "the samples themselves", "5m": "buckets of 5 min", "1h": "buckets of 1 h" }[data.answer.tier]}
            {data.answer.notes.length > 0 && `. ${data.answer.notes.join(" ")}`}
          </Fact>
        )}
      </dl>
      {(tile.table || (data.answer && data.answer.lines.length > 0)) && (
        <>
          <h3 className="mt-5 flex items-baseline gap-4 border-b border-hairline pb-1 font-bold">
            Its numbers
            {data.answer && drawsTime(tile.kind) && (
              <button
                type="button"
                className="word-link text-[13px] font-normal"
                aria-pressed={isEachStep}
                onClick={() => setIsEachStep(!isEachStep)}
              >
                {isEachStep ? "each line" : "each step"}
              </button>
            )}
          </h3>
          <div className="max-h-96 overflow-auto">
            {tile.table ? (
              <TableRows table={tile.table} title={tile.title} />
            ) : (
              data.answer &&
              (isEachStep ? (
                <StepsTable caption={tile.title} answer={data.answer} nameOf={data.nameOf} />
              ) : (
                <LineRows lines={data.answer.lines} nameOf={data.nameOf} title={tile.title} />
              ))
            )}
          </div>
        </>
      )}
      <details className="not-in-print mt-5">
        <summary className="word-link w-fit cursor-pointer">its document (JSON)</summary>
        <pre
          className="figure mt-2 max-h-96 overflow-auto border border-hairline p-3 text-[12.5px]"
          // biome-ignore lint/a11y/noNoninteractiveTabindex: what scrolls must be reached by keys
          tabIndex={0}
          data-document
        >
          {JSON.stringify(tile, null, 2)}
        </pre>
      </details>
    </section>
  );
}

function Fact({ name, children }: { name: string; children: ReactNode }): ReactNode {
  return (
    <>
      <dt className="text-quiet">{name}</dt>
      <dd>{children}</dd>
    </>
  );
}
