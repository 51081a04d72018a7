import { useBandFigure } from "./use-band-figure.ts";
import { SectionLink } from "../../time/section-link.tsx";
import { makeRule } from "../../../../core/api/rules.ts";
import { May } from "../../shared/people/may.tsx";
import { useMay } from "../../shared/people/use-may.ts";
import { listRules } from "../../../../core/api/rules.ts";
import { useQuery } from "@tanstack/react-query";
import { type ReactNode, useState } from "react";
import type { MachineEvent } from "../../../../core/events/machine-event.ts";
import type { RuleView } from "../../../../core/api/rules.ts";
import { present } from "../../../../core/units/present.ts";
import { rulesQuery } from "../../api/queries.ts";
import type { Limit } from "../../charts/plot-overlay.tsx";
import { ChartWithActions } from "../../shared/charts/chart-with-actions.tsx";
import { Signal, signalWords } from "../../ui/signal.tsx";
import { momentText } from "../../time/moments.ts";
import { useTime } from "../../time/time-provider.tsx";
import { limitsWords, withUnit } from "../../../../core/rules/incident-text.ts";
import type { Band } from "../../shared/bands/band.ts";
import { limitsOf, useRuleMarks } from "../../shared/rules/rule-marks.ts";
import { PowerCheck } from "./power-check.tsx";
import { RuleForm } from "./rule-form.tsx";
import equal from "fast-deep-equal";
import { TopUsers } from "./top-users.tsx";
import { useReading } from "../../sentence/use-reading.ts";

/** How high a chart is. */
const [chartPx, compactPx] = [132, 92];

interface BandRowProps {
  readonly band: Band;
  readonly machine: string;
  /** What the page is about, where that is not the machine itself. */
  readonly subject?: string;
  /** Names of the counters that the machine reports. */
  readonly counters: readonly string[];
  readonly events: readonly MachineEvent[];
  /** Two or four stand side by side: figure and chart alone. */
  readonly isCompact?: boolean;
}

/** One band: its figure and state, the sentence and its chart, the top users. */
export function BandRow({
  band: given,
  machine,
  subject = machine,
  counters,
  events,
  isCompact = false,
}: BandRowProps): ReactNode {
  const { span, nowMs } = useTime();
  const { band, figure } = useBandFigure(given, machine, span);
  const [viewId, setViewId] = useState(band.views[0].id);
  const [making, setMaking] = useState(false);
  const [draftLimit, setDraftLimit] = useState<number | null>(null);
  const views = band.views.filter(({ needs }) => needs === undefined || counters.includes(needs));
  const view = views.find(({ id }) => id === viewId) ?? band.views[0];
  const answer = useReading({ ...view.reading(machine), extremes: !view.stacked }, span);
  const rules = useRulesOf(band, machine);
  const marks = useRuleMarks(rules);
  const highest = (figure.data?.lines ?? []).reduce<number | null>(
    (most, { last }) => (last !== null && (most === null || last > most) ? last : most),
    null,
  );
  const shown = present(highest, band.figure.unit);
  const fits = view.unit === band.figure.unit;
  const limits: Limit[] = fits
    ? [
        ...rules.filter((rule) => rule.on).flatMap((rule) => limitsOf(rule)),
        ...(making && draftLimit !== null
          ? [
              {
                key: "draft",
                value: draftLimit,
                severity: "notice" as const,
                text: withUnit(draftLimit, band.figure.unit),
              },
            ]
          : []),
      ]
    : [];
  const stepSeconds = (answer.data?.stepMs ?? 5000) / 1000;
  const error = answer.error ?? figure.error;
  return (
    <section
      id={band.id}
      aria-labelledby={`${band.id}-title`}
      className={
        isCompact
          ? "grid content-start gap-y-1 border-b border-hairline py-3"
          : "grid gap-x-6 gap-y-2 border-b border-hairline py-4 md:grid-cols-[9.5rem_minmax(0,1fr)] xl:grid-cols-[9.5rem_minmax(0,1fr)_15rem]"
      }
    >
      <div className={isCompact ? "flex flex-wrap items-baseline gap-x-3" : ""}>
        <h2 id={`${band.id}-title`} className="font-bold">
          {band.title}
        </h2>
        <p className={`figure leading-tight ${isCompact ? "text-[18px]" : "text-[28px]"}`} data-figure={band.id}>
          {shown.text}
          <span className="ml-1 text-[15px] text-quiet">{shown.unit}</span>
        </p>
        <p className="text-[13px] text-quiet">
          {band.figure.explains ? (
            <span title={band.figure.explains} className="cursor-help underline decoration-dotted underline-offset-3">
              {band.figure.words}
            </span>
          ) : (
            band.figure.words
          )}
        </p>
        {rules.map((rule) => (
          <RuleState key={rule.id} rule={rule} nowMs={nowMs} />
        ))}
        <May ask={makeRule}>
          {!making && (
            <button
              type="button"
              className="word-link not-in-print mt-1 text-[13px]"
              onClick={() => setMaking(true)}
              aria-label={`Tell me when ${band.figure.words} passes a limit`}
            >
              tell me when …
            </button>
          )}
        </May>
      </div>
      <div className="min-w-0">
        <p className={isCompact ? "sr-only" : "mb-1 text-[13.5px]"}>
          <span className="part">{view.shows}</span> of <span className="part">{subject}</span>, mean of every{" "}
          <span className="part">{stepText(stepSeconds)}</span>,{" "}
          {views.length === 1 ? (
            <span className="part">{view.split}</span>
          ) : (
            <select
              className="part"
              aria-label={`What ${band.title} shows`}
              value={viewId}
              onChange={(event) => setViewId(event.target.value)}
            >
              {views.map(({ id, shows, split }) => (
                <option key={id} value={id}>
                  {shows === view.shows ? split : `${shows}, ${split}`}
                </option>
              ))}
            </select>
          )}
        </p>
        {error && (
          <p role="alert" className="text-[13px] text-urgent">
            {error.message}
          </p>
        )}
        <ChartWithActions
          key={`${viewId} ${isCompact}`}
          title={`${view.shows} of ${subject}, ${view.split}`}
          answer={answer.data}
          span={span}
          unit={view.unit}
          nameOf={view.nameOf}
          {...(view.order && { order: view.order })}
          drawn={view.stacked ? "stacked" : "lines"}
          {...(view.plain && { plain: view.plain })}
          ceiling={view.ceiling}
          limits={limits}
          marks={marks}
          events={events}
          reading={view.reading(machine)}
          machine={machine}
          height={isCompact ? compactPx : chartPx}
        />
        {making && (
          <RuleForm
            band={band}
            machine={machine}
            subject={subject}
            value={highest}
            onLimit={setDraftLimit}
            onClose={() => setMaking(false)}
          />
        )}
      </div>
      {band.checksMean && !isCompact && <PowerCheck machine={machine} />}
      {band.top && !isCompact && <TopUsers list={band.top} machine={machine} span={span} />}
    </section>
  );
}

const stepText = (seconds: number) =>
  seconds < 60 ? `${seconds} s` : seconds < 3600 ? `${seconds / 60} min` : `${seconds / 3600} h`;

function RuleState({ rule, nowMs }: { rule: RuleView; nowMs: number }): ReactNode {
  const mode = rule.on ? rule.mode : null;
  return (
    <p className="mt-1 flex items-start gap-1.5 text-[13px]" data-rule-state={mode ?? "off"}>
      <span className="pt-0.5">
        <Signal of={mode ?? "quiet"} severity={rule.severity} />
      </span>
      <SectionLink to={`/alerts/rules/${rule.id}`} title={rule.name} className="hover:underline">
        {mode === null ? (rule.on ? "not checked yet" : "switched off") : signalWords[mode]}
        {mode !== null && mode !== "quiet" && rule.sinceMs !== null && (
          <>
            {" "}
            since <span className="moment">{momentText(rule.sinceMs, nowMs)}</span>
          </>
        )}
        <span className="text-quiet"> · {limitsWords(rule, rule.reading.unit ?? "1")}</span>
      </SectionLink>
    </p>
  );
}

function useRulesOf(band: Band, machine: string): readonly RuleView[] {
  const rules = useQuery({ ...rulesQuery, enabled: useMay()(listRules) }).data ?? [];
  const reading = band.figure.reading(machine);
  return rules.filter((rule) => equal(rule.reading, reading));
}
