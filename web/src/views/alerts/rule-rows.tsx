import { takesFocus } from "../../ui/made.ts";
import type { Line } from "../../../../core/reading/document.ts";
import { SmallStrip } from "../../shared/charts/small-strip.tsx";
import { useTold } from "./use-told.ts";
import { useMay } from "../../shared/people/use-may.ts";
import { documentOf } from "../../../../core/rules/document-of.ts";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import type { ReactNode } from "react";
import { makeRule, removeRule, type RuleView, switchRule } from "../../../../core/api/rules.ts";
import { gaugeText, limitsWords, watchWords } from "../../../../core/rules/incident-text.ts";
import { presentSpan } from "../../../../core/units/present.ts";
import { call } from "../../api/client.ts";
import { useToasts } from "../../shared/toasts.ts";
import { SectionLink } from "../../time/section-link.tsx";
import { Signal, signalWords } from "../../ui/signal.tsx";
import { momentText } from "../../time/moments.ts";
import { useTime } from "../../time/time-provider.tsx";

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
  const told = useTold()(rule);
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
            ref={takesFocus(`rule ${rule.id}`)}
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
          {told && (
            <span className="block text-[13px] text-quiet" data-told>
              {told}
            </span>
          )}
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
  const { span } = useTime();
  const down = rule.compare === "below";
  const least = (line: Line) => line.min ?? Number.POSITIVE_INFINITY;
  const nearer = (a: Line, b: Line) => (down ? least(b) < least(a) : (b.max ?? 0) > (a.max ?? 0));
  return (
    <div aria-hidden="true" className="h-7">
      <SmallStrip
        reading={rule.reading}
        span={span}
        height={26}
        pick={([first, ...others]) => others.reduce((a, b) => (a && nearer(a, b) ? b : a), first)}
      />
    </div>
  );
}
