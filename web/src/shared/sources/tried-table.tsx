import { ScrollRegion } from "../../ui/scroll-region.tsx";
import { type ReactNode, useState } from "react";
import type { TriedPage, TriedSeries } from "../../../../core/api/sources.ts";
import { Quantity } from "../../ui/quantity.tsx";
import { leftOutWords } from "./source-words.ts";

const fewRows = 12;
const formatWords = {
  openmetrics: "OpenMetrics",
  text: "text exposition",
  otlp: "OTLP",
  csv: "a table",
  device: "a device",
} as const;

/** What a page gives, series by series: as it came, and as it will be kept. */
export function TriedTable({ tried }: { tried: TriedPage }): ReactNode {
  const [all, setAll] = useState(false);
  const rows = all ? tried.series : tried.series.slice(0, fewRows);
  const left = leftOutWords(tried.leftOut);
  return (
    <div data-tried>
      <p>
        Found <span className="figure font-bold">{tried.found.toLocaleString("en")}</span>, taking{" "}
        <span className="figure font-bold">{tried.taken.toLocaleString("en")}</span>
        {left ? `; ${left}.` : "."}
        {tried.tookMs > 0 && (
          <span className="text-quiet">
            {" "}
            It answered in {Math.round(tried.tookMs)} ms with {tried.bytes.toLocaleString("en")} bytes of{" "}
            {formatWords[tried.format]}.
          </span>
        )}
      </p>
      <ScrollRegion label="What it gives">
        <table className="mt-2 w-full min-w-[460px] text-[14px]">
          <thead>
            <tr className="text-left text-[13px] text-quiet">
              <th className="py-1 pr-4 font-normal">As it comes</th>
              <th className="py-1 pr-4 font-normal">As it is kept</th>
              <th className="py-1 text-right font-normal">Value now</th>
            </tr>
          </thead>
          <tbody>
            {rows.map((series) => (
              <tr key={JSON.stringify(series.sent)} className="border-t border-hairline align-top">
                <td className="py-1 pr-4 break-words">
                  <SeriesText {...series.sent} />
                </td>
                <td className="py-1 pr-4 break-words">
                  {series.made ? <Made series={series} /> : <span className="text-quiet">{series.why}</span>}
                </td>
                <td className="py-1 text-right">
                  {series.made && <Quantity value={series.value} unit={series.made.unit} />}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      </ScrollRegion>
      {tried.series.length > fewRows && (
        <button type="button" className="word-link mt-2" aria-expanded={all} onClick={() => setAll(!all)}>
          {all
            ? "show fewer"
            : `show ${tried.series.length === 500 ? "500" : "all"} ${tried.series.length === 500 ? "of them" : tried.series.length.toLocaleString("en")}`}
        </button>
      )}
    </div>
  );
}

function Made({ series }: { series: TriedSeries }): ReactNode {
  const { sent, made } = series;
  const same =
    made &&
    sent.counter === made.counter &&
    JSON.stringify(sent.tags) === JSON.stringify(made.tags) &&
    sent.unit === made.unit;
  return same ? <span className="text-quiet">the same, a {made.kind}</span> : made && <SeriesText {...made} />;
}

function SeriesText({
  counter,
  tags,
  kind,
}: {
  counter: string;
  tags: Readonly<Record<string, string>>;
  kind: string;
}): ReactNode {
  return (
    <>
      <span>{counter}</span>{" "}
      <span className="text-[13px] text-quiet">
        {Object.entries(tags)
          .map(([tag, value]) => `${tag} ${value}`)
          .join(", ") || kind}
      </span>
    </>
  );
}
