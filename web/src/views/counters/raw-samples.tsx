import { useQuery } from "@tanstack/react-query";
import { type ReactNode, useState } from "react";
import type { Tags } from "../../../../core/counters/counter.ts";
import { meets } from "../../../../core/reading/where.ts";
import { counterQuery, samplesQuery } from "../../api/queries.ts";
import type { OpenReading } from "../../sentence/reading-address.ts";
import { ScrollRegion } from "../../ui/scroll-region.tsx";
import { dayOf } from "../../time/moments.ts";
import { useTime } from "../../time/time-provider.tsx";

/** The samples of one series as they are stored, the newest first. */
export function RawSamplesTable({ reading }: { reading: OpenReading }): ReactNode {
  const { span } = useTime();
  const [sentence] = Object.values(reading.sentences);
  const detail = useQuery(counterQuery(sentence?.counter ?? "")).data;
  const series = (detail?.newest ?? []).filter(({ tags }) =>
    meets(
      tags,
      (sentence?.where ?? []).filter(({ tag }) => tag in tags),
    ),
  );
  const [chosen, setChosen] = useState<number | null>(null);
  const id = series.some((one) => one.id === chosen) ? chosen : (series[0]?.id ?? null);
  const minute = 10_000;
  const samples = useQuery({
    ...samplesQuery(id ?? 0, Math.floor(span.fromMs / minute) * minute, Math.ceil(span.toMs / minute) * minute),
    enabled: id !== null,
  });
  if (!detail) return <p className="text-quiet">reading …</p>;
  if (id === null) return <p className="text-quiet">No series fits these conditions.</p>;
  return (
    <div data-raw-samples>
      <p className="mb-2">
        <label>
          <span className="text-quiet">of </span>
          <select className="part max-w-full" value={id} onChange={(event) => setChosen(Number(event.target.value))}>
            {series.map((one) => (
              <option key={one.id} value={one.id}>
                {tagText(one.tags)}
              </option>
            ))}
          </select>
        </label>
        <span className="text-quiet">, in {detail.unit}, as stored</span>
      </p>
      {samples.error && (
        <p role="alert" className="text-urgent">
          {samples.error.message}
        </p>
      )}
      {samples.data?.timeMs.length === 0 && (
        <p className="text-quiet">
          No sample in this window. What is older than the finest samples are kept is there as means only.
        </p>
      )}
      {samples.data && samples.data.timeMs.length > 0 && (
        <ScrollRegion label="Samples">
          <table className="figure text-[13px]">
            <caption className="sr-only">Samples as they are stored</caption>
            <thead className="sticky top-0 bg-paper text-quiet">
              <tr>
                <th className="pr-8 text-left font-normal">time</th>
                <th className="text-right font-normal">value</th>
              </tr>
            </thead>
            <tbody>
              {samples.data.timeMs.map((atMs, i) => (
                <tr key={atMs} className="border-t border-hairline">
                  <td className="pr-8">
                    {dayOf(atMs)} {exactMs(atMs)}
                  </td>
                  <td className="text-right">{samples.data.value[i]}</td>
                </tr>
              ))}
            </tbody>
          </table>
          {samples.data.isCut && (
            <p className="py-2 text-quiet">
              and more in this window; these are the newest {samples.data.timeMs.length}
            </p>
          )}
        </ScrollRegion>
      )}
    </div>
  );
}

const withMs = new Intl.DateTimeFormat("en-GB", {
  hour: "2-digit",
  minute: "2-digit",
  second: "2-digit",
  fractionalSecondDigits: 3,
  hourCycle: "h23",
});
const exactMs = (atMs: number) => withMs.format(atMs);
const tagText = (tags: Tags) =>
  Object.entries(tags)
    .sort(([a], [b]) => (a === "machine" ? -1 : b === "machine" ? 1 : a.localeCompare(b)))
    .map(([tag, value]) => `${tag} ${value}`)
    .join(", ");
