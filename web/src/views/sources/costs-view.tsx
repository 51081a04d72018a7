import { Beside } from "../../ui/beside.tsx";
import { useQuery } from "@tanstack/react-query";
import type { ReactNode } from "react";
import type { CostsView as Costs } from "../../../../core/api/costs.ts";
import { costsQuery } from "../../api/queries.ts";
import { Quantity } from "../../ui/quantity.tsx";
import { RetentionForm } from "./retention-form.tsx";
import { Slowness } from "./slowness-part.tsx";
import { SourcesHeading } from "../../shared/sources/sources-heading.tsx";

/** What gathering and keeping costs this machine. */
export function CostsView(): ReactNode {
  const costs = useQuery(costsQuery);
  return (
    <>
      <SourcesHeading />
      <section aria-labelledby="costs-title" className="py-4">
        <h2 id="costs-title" className="font-bold">
          What it costs
        </h2>
        {costs.isPending && <p className="py-4 text-quiet">reading …</p>}
        {costs.error && (
          <p role="alert" className="py-2 text-urgent">
            {costs.error.message}
          </p>
        )}
        {costs.data && (
          <Beside label="How long it is kept" aside={<RetentionForm costs={costs.data} />}>
            <Figures costs={costs.data} />
            <Refusals refused={costs.data.refused} />
          </Beside>
        )}
      </section>
      <Slowness />
    </>
  );
}

function Figures({ costs }: { costs: Costs }): ReactNode {
  const facts: readonly (readonly [words: string, value: number | null, unit: string, note: string])[] = [
    [
      "gathered",
      costs.samplesPerSecond,
      "{sample}/s",
      `samples a second, of ${costs.series.toLocaleString("en")} series`,
    ],
    [
      "on disk",
      costs.bytesPerSample,
      "By",
      costs.isEstimated
        ? "a sample, estimated: it is measured after the first two hours"
        : "a sample, indexes included",
    ],
    ["processor", costs.processorShare * 100, "%", "of one processor, the server alone, over a minute"],
    [
      "memory",
      costs.memoryBytes,
      "By",
      `of the server; ${costs.headSamples.toLocaleString("en")} newest samples are in it`,
    ],
    ["database", costs.databaseBytes, "By", "all of it"],
    [
      "free",
      costs.diskFreeBytes,
      "By",
      costs.diskFreeBytes === null ? "on its disk: another machine's, not known here" : "on its disk",
    ],
  ];
  return (
    <dl className="grid max-w-4xl grid-cols-2 gap-x-10 gap-y-3 py-4">
      {facts.map(([words, value, unit, note]) => (
        <div key={words} className="border-t border-hairline pt-1">
          <dt className="text-quiet">{words}</dt>
          <dd>
            <span className="text-xl">
              <Quantity value={value} unit={unit === "{sample}/s" ? "1" : unit} />
            </span>
            <span className="block text-[0.85em] text-quiet">{note}</span>
          </dd>
        </div>
      ))}
    </dl>
  );
}

function Refusals({ refused }: { refused: Costs["refused"] }): ReactNode {
  const reasons = Object.entries(refused);
  if (reasons.length === 0) return null;
  return (
    <p className="py-2">
      Not taken since the start:{" "}
      {reasons.map(([reason, count], i) => (
        <span key={reason}>
          {i > 0 && ", "}
          <span className="figure">{count.toLocaleString("en")}</span> {reason}
        </span>
      ))}
      .
    </p>
  );
}
