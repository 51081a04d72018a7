import { ScrollRegion } from "../../ui/scroll-region.tsx";
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { type ReactNode, useDeferredValue } from "react";
import { forecastRecording, type RecordingForecast } from "../../../../core/api/recordings.ts";
import type { RecordingDocument } from "../../../../core/recordings/recording.ts";
import { presentSpan } from "../../../../core/units/present.ts";
import { call } from "../../api/client.ts";
import { Quantity } from "../../ui/quantity.tsx";

/** What a run of a recording would cost, measured where it can be, and what is advised; before it begins. */
export function ForecastPart({
  document,
  onEvery,
}: {
  document: RecordingDocument;
  onEvery: (seconds: number) => void;
}): ReactNode {
  const asked = useDeferredValue(document);
  const forecast = useQuery({
    queryKey: ["recordings", "forecast", { ...asked, name: "" }],
    queryFn: ({ signal }) => call(forecastRecording, {}, { ...asked, name: asked.name.trim() || "new" }, { signal }),
    placeholderData: keepPreviousData,
    retry: false,
    staleTime: 30_000,
  });
  return (
    <section aria-label="What it costs" className="mt-4 border-t border-hairline pt-2" data-forecast>
      {forecast.isPending && <p className="text-quiet">working out what it costs …</p>}
      {forecast.error && (
        <p role="alert" className="text-urgent">
          {forecast.error.message}
        </p>
      )}
      {forecast.data && <Forecast forecast={forecast.data} document={asked} onEvery={onEvery} />}
    </section>
  );
}

function Forecast({
  forecast,
  document,
  onEvery,
}: {
  forecast: RecordingForecast;
  document: RecordingDocument;
  onEvery: (seconds: number) => void;
}): ReactNode {
  const { series, forSeconds, cost, sources, advice, advisedEverySeconds, over } = forecast;
  if (series === 0) return <p className="text-notice">Nothing reports what it asks for at present.</p>;
  return (
    <>
      <p>
        {series.toLocaleString("en")} {series === 1 ? "line" : "lines"} every{" "}
        {presentSpan(document.everySeconds * 1000)} for {presentSpan(forSeconds * 1000)}:{" "}
        <span className="figure">{cost.samples.toLocaleString("en")}</span> samples,{" "}
        <Quantity value={cost.bytes} unit="By" /> of disk
        {cost.serverShare !== null && (
          <>
            , <Quantity value={cost.serverShare * 100} unit="%" /> of a core of Nubrel
          </>
        )}
        .
      </p>
      {advice && (
        <p className="text-notice">
          {advice}{" "}
          <button type="button" className="word-link" onClick={() => onEvery(advisedEverySeconds)}>
            take {presentSpan(advisedEverySeconds * 1000)}
          </button>
        </p>
      )}
      {over.length > 0 && (
        <p className="text-notice">That is over the budget, so it asks before it begins: {over.join("; ")}.</p>
      )}
      <ScrollRegion label="Its sources">
        <table className="mt-2 text-[13.5px]">
          <thead>
            <tr className="text-left text-quiet">
              <th className="pr-6 font-normal">source</th>
              <th className="pr-6 text-right font-normal">lines</th>
              <th className="pr-6 font-normal">gathered</th>
              <th className="pr-6 text-right font-normal">of a core there</th>
              <th className="font-normal">how that is known</th>
            </tr>
          </thead>
          <tbody>
            {sources.map(({ id, name, series: lines, everySeconds, why, share, method }) => (
              <tr key={id} className="border-t border-hairline">
                <th scope="row" className="pr-6 text-left font-normal">
                  {name}
                </th>
                <td className="figure pr-6 text-right">{lines}</td>
                <td className={`pr-6 ${why === null ? "" : "text-notice"}`}>
                  every {presentSpan(everySeconds * 1000)}
                  {why !== null && `: ${why}`}
                </td>
                <td className="pr-6 text-right">
                  <Quantity value={share === null ? null : share * 100} unit="%" />
                </td>
                <td className="text-quiet">{method}</td>
              </tr>
            ))}
          </tbody>
        </table>
      </ScrollRegion>
    </>
  );
}
