import { limitDoubt } from "../../../../core/rules/limit-doubt.ts";
import type { ReactNode } from "react";
import {
  type Compare,
  compares,
  type Limit,
  type Measure,
  measures,
  type NoData,
  type WhenGone,
  type RuleDocument,
  type Severity,
  severities,
  type Watch,
  watchedValue,
} from "../../../../core/rules/rule.ts";
import { presentSpan, scaleFor } from "../../../../core/units/present.ts";
import { SelectPart } from "../../sentence/select-part.tsx";
import { NumberField } from "../../ui/number-field.tsx";
import { UsualPicture } from "./usual-picture.tsx";

const hourSeconds = 3600;
const spans = [
  0, 60, 300, 600, 900, 1800, 3600, 7200, 14_400, 21_600, 43_200, 86_400, 172_800, 345_600, 604_800, 1_209_600,
];
const spanOptions = (least: number, none?: string): readonly (readonly [string, string])[] =>
  spans
    .filter((seconds) => seconds >= least || (seconds === 0 && none !== undefined))
    .map((seconds) => [String(seconds), seconds === 0 ? (none ?? "at once") : presentSpan(seconds * 1000)]);
const measureWords: Readonly<Record<Measure, string>> = {
  last: "newest value",
  mean: "mean",
  min: "lowest",
  max: "highest",
  p50: "median",
  p90: "90th percentile",
  p95: "95th percentile",
  p99: "99th percentile",
};
const kindWords: readonly (readonly [Watch["kind"], string])[] = [
  ["value", "its value"],
  ["change", "its change"],
  ["silence", "nothing being reported"],
  ["reach", "the time until it reaches a value"],
  ["usual", "its distance from what is usual at this clock time"],
];
const whenGoneWords: readonly (readonly [WhenGone, string])[] = [
  ["by kind", "it is over for processes, containers and guests"],
  ["over", "it is over"],
  ["no data", "that is no data"],
];
const noDataWords: readonly (readonly [NoData, string])[] = [
  ["hold", "it stays as it is and is shown as no data"],
  ["raise", "it is raised"],
  ["ignore", "nothing is made of it"],
];

interface ConditionFormProps {
  readonly rule: RuleDocument;
  readonly unit: string;
  /** The highest value of the window: limits are typed in a prefix that suits it. */
  readonly most: number;
  readonly onChange: (rule: RuleDocument) => void;
}

/** What is compared with what, how long, and what is made of missing data: a sentence whose parts are controls. */
export function ConditionForm({ rule, unit, most, onChange }: ConditionFormProps): ReactNode {
  const { watch } = rule;
  const set = (change: Partial<RuleDocument>) => onChange({ ...rule, ...change });
  const typed = typedScale(watch, unit, most);
  const seconds = (
    label: string,
    value: number,
    options: readonly (readonly [string, string])[],
    onPick: (seconds: number) => void,
  ) => (
    <SelectPart
      label={label}
      value={String(value)}
      options={
        options.some(([one]) => one === String(value))
          ? options
          : [...options, [String(value), presentSpan(value * 1000)]]
      }
      onChange={(chosen) => onPick(Number(chosen))}
    />
  );
  return (
    <div className="leading-8" data-condition>
      <p>
        Tell me by{" "}
        <SelectPart
          label="what is watched"
          value={watch.kind}
          options={kindWords}
          onChange={(kind) => onChange(withWatch(rule, kind as Watch["kind"]))}
        />
        {watch.kind === "value" && (
          <>
            , the{" "}
            <SelectPart
              label="measure"
              value={watch.of}
              options={measures.map((of) => [of, measureWords[of]])}
              onChange={(of) =>
                set({
                  watch: { ...watch, of: of as Measure, overSeconds: of === "last" ? 0 : watch.overSeconds || 300 },
                })
              }
            />
            {watch.of !== "last" && (
              <>
                {" "}
                of the last{" "}
                {seconds("measured over", watch.overSeconds, spanOptions(60), (overSeconds) =>
                  set({ watch: { ...watch, overSeconds } }),
                )}
              </>
            )}
          </>
        )}
        {watch.kind === "change" && (
          <>
            {" "}
            within{" "}
            {seconds("change within", watch.overSeconds, spanOptions(60), (overSeconds) =>
              set({ watch: { ...watch, overSeconds } }),
            )}
          </>
        )}
        {watch.kind === "reach" && (
          <>
            {" "}
            of{" "}
            <NumberField
              label="value that is reached"
              value={watch.target * scaleOf(unit, most).factor}
              usual=""
              onChange={(value) =>
                value !== undefined && set({ watch: { ...watch, target: value / scaleOf(unit, most).factor } })
              }
            />{" "}
            {scaleOf(unit, most).unit}, at the rate of the last{" "}
            {seconds("rate of the last", watch.pastSeconds, spanOptions(3600), (pastSeconds) =>
              set({ watch: { ...watch, pastSeconds } }),
            )}
          </>
        )}
        , when it is{" "}
        {watch.kind === "silence" ? (
          "longer than"
        ) : watch.kind === "reach" ? (
          "nearer than"
        ) : (
          <SelectPart
            label="comparison"
            value={rule.compare}
            options={compares.map((compare) => [compare, compare])}
            onChange={(compare) => onChange(withCompare(rule, compare as Compare))}
          />
        )}
        :
      </p>
      {watch.kind === "usual" && <UsualPicture limit={rule.notice?.high ?? rule.urgent?.high ?? 4} />}
      {severities.map((severity) => (
        <LimitLine
          key={severity}
          rule={rule}
          severity={severity}
          typed={typed}
          doubt={
            watch.kind === "value"
              ? [rule[severity]?.high, rule[severity]?.low]
                  .map((value) => limitDoubt(unit, value, most))
                  .find((words) => words !== undefined)
              : undefined
          }
          onChange={(limit) => set(severity === "notice" ? { notice: limit } : { urgent: limit })}
        />
      ))}
      <p>
        It must last{" "}
        {seconds("must last", rule.mustLastSeconds, spanOptions(60, "no time at all"), (mustLastSeconds) =>
          set({ mustLastSeconds }),
        )}
        , stays raised{" "}
        {seconds("stays raised", rule.staysRaisedSeconds, spanOptions(60, "no longer"), (staysRaisedSeconds) =>
          set({ staysRaisedSeconds }),
        )}{" "}
        after it has ended, and is checked{" "}
        {seconds(
          "checked",
          rule.everySeconds,
          [
            ["0", "with every new value"],
            ["10", "every 10 s"],
            ["30", "every 30 s"],
            ...spanOptions(60)
              .slice(0, 7)
              .map(([value, words]): readonly [string, string] => [value, `every ${words}`]),
          ],
          (everySeconds) => set({ everySeconds }),
        )}
        .
      </p>
      {watch.kind !== "silence" && (
        <p>
          Where there is no data,{" "}
          <SelectPart
            label="no data"
            value={rule.noData}
            options={noDataWords}
            onChange={(noData) => set({ noData: noData as NoData })}
          />
          ; where one of its lines is not told of any more while its machine is,{" "}
          <SelectPart
            label="when gone"
            value={rule.whenGone ?? "by kind"}
            options={whenGoneWords}
            onChange={(whenGone) => set({ whenGone: whenGone as WhenGone })}
          />
          .
        </p>
      )}
    </div>
  );
}

function LimitLine({
  rule,
  severity,
  typed,
  doubt,
  onChange,
}: {
  rule: RuleDocument;
  severity: Severity;
  typed: Typed;
  /** What is doubtful about it, in a sentence. */
  doubt: string | undefined;
  onChange: (limit: Limit | null) => void;
}): ReactNode {
  const limit = rule[severity];
  const other = severity === "notice" ? rule.urgent : rule.notice;
  if (limit === null)
    return (
      <p>
        <button
          type="button"
          className="word-link text-[13.5px]"
          onClick={() => onChange(startLimit(rule.compare, other))}
        >
          {severity === "urgent" ? "urgent, too …" : "a notice before …"}
        </button>
      </p>
    );
  const field = (end: keyof Limit, words: string) => (
    <>
      {words}{" "}
      <NumberField
        label={`${severity}, ${words}`}
        value={limit[end] === undefined ? undefined : Number(((limit[end] as number) * typed.factor).toPrecision(12))}
        usual={end.startsWith("clear") ? "the same" : ""}
        onChange={(value) => onChange(withEnd(limit, end, value === undefined ? undefined : value / typed.factor))}
      />
    </>
  );
  return (
    <p data-limit={severity}>
      as <strong>{severity === "urgent" ? "urgent" : "a notice"}</strong>{" "}
      {rule.compare === "above" && field("high", "above")}
      {rule.compare === "below" && field("low", "below")}
      {(rule.compare === "outside" || rule.compare === "inside") && (
        <>
          {field("low", "from")} {field("high", "to")}
        </>
      )}{" "}
      {typed.unit}
      <span className="text-quiet">
        , clearing {rule.compare === "above" && field("clearHigh", "at")}
        {rule.compare === "below" && field("clearLow", "at")}
        {(rule.compare === "outside" || rule.compare === "inside") && (
          <>
            {field("clearLow", "at")} {field("clearHigh", "and at")}
          </>
        )}{" "}
        {typed.unit}
      </span>
      {other !== null && (
        <button
          type="button"
          className="word-link ml-3 text-[13px]"
          aria-label={`leave out ${severity}`}
          onClick={() => onChange(null)}
        >
          leave out
        </button>
      )}
      {doubt && (
        <span role="status" className="block text-[13px] text-notice" data-limit-doubt>
          {doubt}
        </span>
      )}
    </p>
  );
}

interface Typed {
  /** Typed value = value × factor. */
  readonly factor: number;
  readonly unit: string;
}

const scaleOf = (unit: string, most: number): Typed => scaleFor(unit, most);

/** In what limits of a rule are typed. */
function typedScale(watch: Watch, unit: string, most: number): Typed {
  if (watch.kind === "silence") return { factor: 1 / 60, unit: "min" };
  if (watch.kind === "reach") return { factor: 1 / hourSeconds, unit: "h" };
  if (watch.kind === "usual") return { factor: 1, unit: "standard deviations" };
  return scaleOf(unit, most);
}

function withEnd(limit: Limit, end: keyof Limit, value: number | undefined): Limit {
  const { [end]: _, ...rest } = limit;
  return value === undefined ? (end.startsWith("clear") ? rest : limit) : { ...rest, [end]: value };
}

function startLimit(compare: Compare, other: Limit | null): Limit {
  const { low = 0, high = 0 } = other ?? {};
  if (compare === "above") return { high };
  if (compare === "below") return { low };
  return { low, high: high > low ? high : low + 1 };
}

/** Another comparison keeps what it can of the limits. */
function withCompare(rule: RuleDocument, compare: Compare): RuleDocument {
  const of = (limit: Limit | null): Limit | null =>
    limit && startLimit(compare, { low: limit.low ?? limit.high ?? 0, high: limit.high ?? limit.low ?? 0 });
  return { ...rule, compare, notice: of(rule.notice), urgent: of(rule.urgent) };
}

/** Another figure has other limits: those to begin with. */
function withWatch(rule: RuleDocument, kind: Watch["kind"]): RuleDocument {
  switch (kind) {
    case "value":
      return { ...withCompare({ ...rule, notice: { high: 0 }, urgent: null }, "above"), watch: watchedValue };
    case "change":
      return {
        ...rule,
        watch: { kind, overSeconds: hourSeconds },
        compare: "above",
        notice: { high: 0 },
        urgent: null,
      };
    case "silence":
      return { ...rule, watch: { kind }, compare: "above", notice: { high: 300 }, urgent: null, noData: "hold" };
    case "reach":
      return {
        ...rule,
        watch: { kind, target: rule.reading.unit === "%" ? 100 : 0, pastSeconds: 172_800 },
        compare: "below",
        notice: { low: 7 * 86_400 },
        urgent: { low: 86_400 },
        noData: "ignore",
      };
    case "usual":
      return {
        ...rule,
        watch: { kind },
        compare: "above",
        notice: { high: 4, clearHigh: 2 },
        urgent: null,
        mustLastSeconds: 600,
        noData: "ignore",
      };
  }
}
