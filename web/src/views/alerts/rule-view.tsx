import { Changeable } from "../../shared/people/changeable.tsx";
import { May } from "../../shared/people/may.tsx";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { type ReactNode, useState } from "react";
import { useParams, useSearchParams } from "react-router";
import { changeRule, makeRule, type RuleView as Saved } from "../../../../core/api/rules.ts";
import type { RuleDocument } from "../../../../core/rules/rule.ts";
import { watchedValue } from "../../../../core/rules/rule.ts";
import { presentSpan } from "../../../../core/units/present.ts";
import { call } from "../../api/client.ts";
import { countersQuery, rulesQuery, viewerZone } from "../../api/queries.ts";
import { lineNames, tagsOfLines } from "../../charts/line-names.ts";
import { ChartWithActions } from "../../shared/charts/chart-with-actions.tsx";
import { SectionLink } from "../../time/section-link.tsx";
import { useGo } from "../../time/use-go.ts";
import { ReadingEditor } from "../../sentence/reading-editor.tsx";
import { SelectPart } from "../../sentence/select-part.tsx";
import { withoutIdle } from "../../../../core/reading/idle.ts";
import { askedReading } from "../../sentence/said.ts";
import { momentText } from "../../time/moments.ts";
import { useTime } from "../../time/time-provider.tsx";
import { useReading } from "../../sentence/use-reading.ts";
import { AlertsHeading } from "./alerts-heading.tsx";
import { ConditionForm } from "./condition-form.tsx";
import { RehearsalPart } from "./rehearsal.tsx";
import { newRuleFrom } from "../../shared/rules/rule-address.ts";
import { limitsOf, useRuleMarks } from "../../shared/rules/rule-marks.ts";
import { documentOf } from "../../../../core/rules/document-of.ts";

const defaultReading = {
  sentences: { a: { counter: "system.cpu.load_average", where: [{ tag: "over", is: ["5m"] }] } },
};
const margins = [300, 900, 3600, 21_600, 86_400];
/** Steps longer than this hide single values. */
const usualStepMs = 60_000;

/** A rule that is there. */
export function RuleView(): ReactNode {
  const id = Number(useParams()["id"]);
  const rules = useQuery(rulesQuery);
  const rule = rules.data?.find((one) => one.id === id);
  if (rules.error)
    return (
      <p role="alert" className="py-6 text-urgent">
        {rules.error.message}
      </p>
    );
  if (!rules.data) return <p className="py-6 text-quiet">reading …</p>;
  if (!rule)
    return (
      <p className="py-6">
        There is no such rule; it may have been removed.{" "}
        <SectionLink to="/alerts" className="word-link">
          All rules
        </SectionLink>
      </p>
    );
  return <RuleEditor key={id} begin={documentOf(rule)} saved={rule} />;
}

/** A rule to be made, about what the address says. */
export function NewRuleView(): ReactNode {
  const [search] = useSearchParams();
  const { reading, place, name } = newRuleFrom(search);
  return (
    <RuleEditor
      begin={{
        name,
        reading: reading ?? defaultReading,
        watch: watchedValue,
        compare: "above",
        notice: { high: 0 },
        urgent: null,
        everySeconds: 0,
        mustLastSeconds: 0,
        staysRaisedSeconds: 0,
        noData: "hold",
        marginSeconds: null,
        place,
        advice: "",
      }}
      saved={undefined}
    />
  );
}

function RuleEditor({ begin, saved }: { begin: RuleDocument; saved: Saved | undefined }): ReactNode {
  const { span, nowMs } = useTime();
  const queries = useQueryClient();
  const go = useGo();
  const counters = useQuery(countersQuery).data;
  const [rule, setRule] = useState(begin);
  const [isTouched, setIsTouched] = useState(saved !== undefined);
  const change = (next: RuleDocument) => {
    setIsTouched(true);
    setRule(next);
  };
  const question = askedReading(rule.reading);
  const answer = useReading({ ...question, extremes: true }, span, 600);
  const lines = answer.data?.lines ?? [];
  const unit = lines[0]?.unit ?? rule.reading.unit ?? "1";
  const most = lines.reduce((highest, { max }) => Math.max(highest, Math.abs(max ?? 0)), 0);
  // Until somebody has said one, the limit stands where the values mostly are not.
  const shown =
    isTouched || rule.watch.kind !== "value" || most === 0 ? rule : { ...rule, notice: { high: rounded(most * 0.8) } };
  const marks = useRuleMarks(saved ? [saved] : []);
  const firstCounter = Object.values(rule.reading.sentences)[0]?.counter ?? "";
  const defaultName = counters?.find(({ name }) => name === firstCounter)?.words ?? "rule";
  const keeps = saved ? changeRule : makeRule;
  const save = useMutation({
    mutationFn: () => {
      const document = {
        ...shown,
        name: shown.name.trim() || defaultName,
        reading: { zone: viewerZone, ...withoutIdle(shown.reading) },
      };
      return saved ? call(changeRule, { id: saved.id }, document) : call(makeRule, {}, document);
    },
    onSuccess: async () => {
      await queries.invalidateQueries({ queryKey: ["rules"] });
      go("/alerts");
    },
  });
  const moveLimit = (key: string, value: number) => {
    const [, severity, before] = key.split(" ");
    const limit = severity === "urgent" ? shown.urgent : shown.notice;
    if (!limit) return;
    const end = limit.high === Number(before) ? "high" : "low";
    const clear = end === "high" ? "clearHigh" : "clearLow";
    const at = rounded(value);
    const gap = limit[clear] === undefined ? undefined : (limit[clear] as number) - (limit[end] as number);
    change({
      ...shown,
      [severity as "notice"]: { ...limit, [end]: at, ...(gap !== undefined && { [clear]: at + gap }) },
    });
  };
  return (
    <>
      <AlertsHeading title={saved ? saved.name : "A new rule"}>
        {saved && `changed ${momentText(saved.changedAtMs, nowMs)}${saved.changedBy && ` by ${saved.changedBy}`}`}
      </AlertsHeading>
      <form
        className="py-3"
        onSubmit={(event) => {
          event.preventDefault();
          save.mutate();
        }}
      >
        <Changeable ask={keeps}>
          <label>
            <span className="block text-[13px] text-quiet">Name</span>
            <input
              value={rule.name}
              maxLength={200}
              placeholder={defaultName}
              onChange={(event) => change({ ...shown, name: event.target.value })}
              className="w-96 max-w-full"
            />
          </label>
          <div className="mt-2">
            <ReadingEditor
              reading={rule.reading}
              drawn={null}
              stepMs={answer.data?.stepMs}
              onChange={(reading) => setRule({ ...rule, reading })}
            />
          </div>
          <ConditionForm rule={shown} unit={unit} most={most} onChange={change} />
          <p className="leading-9">
            Links in messages show{" "}
            <SelectPart
              label="margin around an incident"
              value={String(rule.marginSeconds ?? "")}
              options={[
                ["", "as much before and after as it lasted, 5 min at the least"],
                ...margins.map((seconds): readonly [string, string] => [
                  String(seconds),
                  `${presentSpan(seconds * 1000)} before and after`,
                ]),
              ]}
              onChange={(value) => change({ ...shown, marginSeconds: value === "" ? null : Number(value) })}
            />
            {rule.place && (
              <>
                , of the tile{" "}
                <SectionLink
                  to={`/dashboards/${rule.place.dashboard}/tiles/${encodeURIComponent(rule.place.tile)}`}
                  className="word-link"
                >
                  that it belongs to
                </SectionLink>{" "}
                <button
                  type="button"
                  className="word-link text-[13px]"
                  onClick={() => change({ ...shown, place: null })}
                >
                  leave the tile
                </button>
              </>
            )}
            .
          </p>
          <label className="block">
            <span className="block text-[13px] text-quiet">What to do, for whoever is woken</span>
            <textarea
              value={rule.advice}
              maxLength={5000}
              onChange={(event) => change({ ...shown, advice: event.target.value })}
              className="h-14 w-full max-w-3xl border border-hairline bg-transparent p-2"
            />
          </label>
        </Changeable>
        {save.error && (
          <p role="alert" className="py-1 text-urgent">
            {save.error.message}
          </p>
        )}
        <May ask={keeps}>
          <p className="mt-2 flex gap-3">
            <button
              type="submit"
              className="act"
              disabled={save.isPending || (shown.notice === null && shown.urgent === null)}
            >
              {save.isPending ? "saving …" : saved ? "Save the rule" : "Watch it"}
            </button>
            <button type="button" className="act-plain" onClick={() => go("/alerts")}>
              Leave it
            </button>
          </p>
        </May>
      </form>
      {answer.error && (
        <p role="alert" className="text-urgent">
          {answer.error.message}
        </p>
      )}
      <ChartWithActions
        title={rule.name || defaultName}
        answer={answer.data}
        span={span}
        unit={unit}
        nameOf={lineNames(
          lines.filter(({ earlier }) => earlier === undefined),
          tagsOfLines(rule.reading),
        )}
        limits={limitsOf({ ...shown, id: 0 })}
        marks={marks}
        onLimit={moveLimit}
        height={190}
        labels="wide"
      />
      {answer.data && answer.data.stepMs > usualStepMs && lines.every(({ lows }) => lows === undefined) && (
        <p className="text-[13px] text-quiet">
          Drawn is the mean of every {presentSpan(answer.data.stepMs)}; checked is every value, so a peak that the line
          hides may pass a limit.
        </p>
      )}
      <RehearsalPart
        rule={{ ...shown, name: "rehearsal", reading: question }}
        onChange={(next) =>
          change({ ...shown, notice: next.notice, urgent: next.urgent, mustLastSeconds: next.mustLastSeconds })
        }
      />
    </>
  );
}

/** Three figures are enough for a limit that is set by hand. */
const rounded = (value: number) => Number(value.toPrecision(3));
