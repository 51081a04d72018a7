import { useMay } from "../../shared/people/use-may.ts";
import { documentOf } from "../../../../core/rules/document-of.ts";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { type ReactNode, useRef } from "react";
import { makeRule, removeRule, type RuleView, switchRule } from "../../../../core/api/rules.ts";
import { gaugeText, limitsWords, watchWords } from "../../../../core/rules/incident-text.ts";
import { presentSpan } from "../../../../core/units/present.ts";
import { call } from "../../api/client.ts";
import { palette } from "../../../../core/drawing/palette.ts";
import { Strip } from "../../charts/strip.tsx";
import { useToasts } from "../../shared/toasts.ts";
import { SectionLink } from "../../time/section-link.tsx";
import { useTheme } from "../../ui/theme.ts";
import { Signal, signalWords } from "../../ui/signal.tsx";
import { momentText } from "../../time/moments.ts";
import { useTime } from "../../time/time-provider.tsx";
import { useNearScreen } from "../../ui/use-near-screen.ts";
import { useReading } from "../../sentence/use-reading.ts";

const stripPoints = 120;

/**
 * Rules as rows, each with a strip of what it watches and where it stands; here they are opened, switched off and
 * removed.
 */
export function RuleRows({ rules, nowMs }: { rules: readonly RuleView[]; nowMs: number }): ReactNode {
  return (
    <ul>
      {rules.map((rule) => (
        <RuleRow key={rule.id} rule={rule} nowMs={nowMs} />
      ))}
    </ul>
  );
}

function RuleRow({ rule, nowMs }: { rule: RuleView; nowMs: number }): ReactNode {
  const queries = useQueryClient();
  const notify = useToasts();
  const refresh = () =>
    Promise.all([
      queries.invalidateQueries({ queryKey: ["rules"] }),
      queries.invalidateQueries({ queryKey: ["incidents"] }),
    ]);
  const failed = (error: Error) => notify({ text: error.message });
  const change = useMutation({
    mutationFn: (on: boolean) => call(switchRule, { id: rule.id }, { on }),
    onSuccess: refresh,
    onError: failed,
  });
  const remove = useMutation({
    mutationFn: () => call(removeRule, { id: rule.id }),
    onSuccess: async () => {
      notify({
        text: `The rule “${rule.name}” is removed; its incidents stay.`,
        action: { words: "Put it back", run: () => void call(makeRule, {}, documentOf(rule)).then(refresh, failed) },
        forMs: 20_000,
      });
      await refresh();
    },
    onError: failed,
  });
  const busy = change.isPending || remove.isPending;
  const mayChange = useMay()(removeRule);
  const { mustLastSeconds, staysRaisedSeconds } = rule;
  return (
    <li
      className="grid items-center gap-x-5 gap-y-1 border-t border-hairline py-2 md:grid-cols-[minmax(0,1fr)_9rem_13rem_8rem_10rem]"
      data-rule={rule.id}
    >
      <span className="flex min-w-0 items-start gap-2">
        <span className="pt-1">
          <Signal of={(rule.on && rule.mode) || "quiet"} severity={rule.severity} />
        </span>
        <span className="min-w-0">
          <SectionLink
            to={`/alerts/rules/${rule.id}`}
            className={rule.on ? "font-semibold hover:underline" : "text-quiet hover:underline"}
          >
            {rule.name}
          </SectionLink>
          <span className="block text-[13px] text-quiet">
            {watchWords(rule.watch, rule.unit)}:{" "}
            {limitsWords(rule, rule.watch.kind === "value" || rule.watch.kind === "change" ? rule.unit : "1")};{" "}
            {mustLastSeconds === 0 ? "raised at once" : `must last ${presentSpan(mustLastSeconds * 1000)}`},{" "}
            {staysRaisedSeconds === 0 ? "cleared at once" : `stays raised ${presentSpan(staysRaisedSeconds * 1000)}`}
          </span>
          {rule.failure && (
            <span role="alert" className="block text-[13px] text-urgent">
              The last check failed: {rule.failure}
            </span>
          )}
        </span>
      </span>
      <RuleStrip rule={rule} />
      <span className="text-[13px]">
        {!rule.on && "switched off"}
        {rule.on &&
          (rule.mode === null ? (
            "not checked yet"
          ) : (
            <>
              {signalWords[rule.mode]} since{" "}
              <span className="moment">{rule.sinceMs === null ? "–" : momentText(rule.sinceMs, nowMs)}</span>
              {rule.lines > 1 && (
                <span className="text-quiet">
                  {" "}
                  · {rule.raised} of {rule.lines} lines raised
                </span>
              )}
            </>
          ))}
      </span>
      <span className="figure text-right">
        {rule.on && rule.value !== null ? gaugeText(rule.watch.kind, rule.value, rule.unit) : "–"}
      </span>
      <span className="flex justify-end gap-4">
        {mayChange && (
          <>
            <button
              type="button"
              className="word-link"
              disabled={busy}
              onClick={() => change.mutate(!rule.on)}
              aria-label={`switch ${rule.on ? "off" : "on"}: ${rule.name}`}
            >
              switch {rule.on ? "off" : "on"}
            </button>
            <button
              type="button"
              className="word-link"
              disabled={busy}
              onClick={() => remove.mutate()}
              aria-label={`remove: ${rule.name}`}
            >
              remove
            </button>
          </>
        )}
      </span>
    </li>
  );
}

/** The line of a rule that is nearest to its limit, over the window. */
function RuleStrip({ rule }: { rule: RuleView }): ReactNode {
  const place = useRef<HTMLDivElement>(null);
  const isNear = useNearScreen(place);
  const { span } = useTime();
  const theme = useTheme();
  const answer = useReading(rule.reading, span, stripPoints, isNear).data;
  const down = rule.compare === "below";
  const line = answer?.lines.reduce<(typeof answer.lines)[number] | undefined>(
    (a, b) =>
      a === undefined ||
      (down ? (b.min ?? Number.POSITIVE_INFINITY) < (a.min ?? Number.POSITIVE_INFINITY) : (b.max ?? 0) > (a.max ?? 0))
        ? b
        : a,
    undefined,
  );
  return (
    <div ref={place} aria-hidden="true" className="h-7">
      {answer && line && (
        <Strip
          line={line}
          firstMs={answer.from}
          stepMs={answer.stepMs}
          span={span}
          scale={{ least: 0, most: line.max !== null && line.max > 0 ? line.max : 1 }}
          height={26}
          colour={palette[theme][0] as string}
        />
      )}
    </div>
  );
}
