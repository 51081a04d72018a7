import { noteMade } from "../../ui/made.ts";
import { useTold } from "./use-told.ts";
import { useFindFigures } from "../../shared/bands/use-find-figures.ts";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { type ReactNode, useState } from "react";
import { changeRule, makeRule, type RuleView as Saved } from "../../../../core/api/rules.ts";
import type { RuleDocument } from "../../../../core/rules/rule.ts";
import { presentSpan } from "../../../../core/units/present.ts";
import { withoutIdle } from "../../../../core/reading/idle.ts";
import { call } from "../../api/client.ts";
import { countersQuery, viewerZone } from "../../api/queries.ts";
import { ReadingEditor } from "../../sentence/reading-editor.tsx";
import { askedReading } from "../../sentence/said.ts";
import { SelectPart } from "../../sentence/select-part.tsx";
import { useReading } from "../../sentence/use-reading.ts";
import { Changeable } from "../../shared/people/changeable.tsx";
import { May } from "../../shared/people/may.tsx";
import { momentText } from "../../time/moments.ts";
import { SectionLink } from "../../time/section-link.tsx";
import { useTime } from "../../time/time-provider.tsx";
import { useGo } from "../../time/use-go.ts";
import { Beside } from "../../ui/beside.tsx";
import { AlertsHeading } from "./alerts-heading.tsx";
import { ConditionForm } from "./condition-form.tsx";
import { RuleDrawing } from "./rule-drawing.tsx";
import { roundedLimit } from "./rounded-limit.ts";

const margins = [300, 900, 3600, 21_600, 86_400];

/** A rule as sentences, and beside them what it sees: drawn and rehearsed while they change. */
export function RuleEditor({ begin, saved }: { begin: RuleDocument; saved: Saved | undefined }): ReactNode {
  const figures = useFindFigures();
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
    isTouched || rule.watch.kind !== "value" || most === 0
      ? rule
      : { ...rule, notice: { high: roundedLimit(most * 0.8) } };
  const told = useTold()(shown);
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
    onSuccess: async ({ id }) => {
      noteMade(`rule ${id}`);
      await queries.invalidateQueries({ queryKey: ["rules"] });
      go("/alerts");
    },
  });
  return (
    <>
      <AlertsHeading title={saved ? saved.name : "A new rule"}>
        {saved && `changed ${momentText(saved.changedAtMs, nowMs)}${saved.changedBy && ` by ${saved.changedBy}`}`}
      </AlertsHeading>
      <Beside
        label="What the rule sees"
        aside={
          <RuleDrawing
            rule={shown}
            saved={saved}
            name={rule.name || defaultName}
            question={question}
            answer={answer}
            unit={unit}
            onChange={change}
          />
        }
      >
        <form
          className="py-3"
          onSubmit={(event) => {
            event.preventDefault();
            save.mutate();
          }}
        >
          <Changeable ask={keeps}>
            <div className="flex flex-wrap items-end gap-x-5 gap-y-2">
              <label>
                <span className="block text-[13px] text-quiet">Name</span>
                <input
                  name="name"
                  value={rule.name}
                  maxLength={200}
                  placeholder={defaultName}
                  onChange={(event) => change({ ...shown, name: event.target.value })}
                  className="w-64 max-w-full"
                />
              </label>
              <May ask={keeps}>
                <span className="flex gap-3">
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
                </span>
              </May>
            </div>
            {save.error && (
              <p role="alert" className="py-1 text-urgent">
                {save.error.message}
              </p>
            )}
            <div className="mt-2">
              <ReadingEditor
                figures={figures}
                reading={rule.reading}
                drawn={null}
                stepMs={answer.data?.stepMs}
                onChange={(reading) => setRule({ ...rule, reading })}
              />
            </div>
            <ConditionForm rule={shown} unit={unit} most={most} onChange={change} />
            <p className="leading-8">
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
            {told && (
              <p data-told>
                It {told}.{" "}
                <SectionLink to="/alerts/recipients" className="word-link text-[13px]">
                  recipients
                </SectionLink>
              </p>
            )}
            <label className="block">
              <span className="block text-[13px] text-quiet">What to do, for whoever is woken</span>
              <textarea
                name="advice"
                value={rule.advice}
                maxLength={5000}
                onChange={(event) => change({ ...shown, advice: event.target.value })}
                className="h-14 w-full max-w-3xl border border-hairline bg-transparent p-2"
              />
            </label>
          </Changeable>
        </form>
      </Beside>
    </>
  );
}
