import { useMutation, useQueryClient } from "@tanstack/react-query";
import type { ReactNode } from "react";
import type { RuleView } from "../../../../core/api/views.ts";
import { ask } from "../../api/client.ts";
import { useNotices } from "../../frame/notices.tsx";
import { Signal, signalWords } from "../../signals/signal.tsx";
import { momentText } from "../../time/moments.ts";
import { Quantity } from "../../ui/quantity.tsx";

/** Rules as rows, with where each stands; here they are switched off and removed. */
export function RuleRows({ rules, nowMs }: { rules: readonly RuleView[]; nowMs: number }): ReactNode {
  return (
    <ul>
      {rules.map((rule) => <RuleRow key={rule.id} rule={rule} nowMs={nowMs} />)}
    </ul>
  );
}

function RuleRow({ rule, nowMs }: { rule: RuleView; nowMs: number }): ReactNode {
  const queries = useQueryClient();
  const notify = useNotices();
  const refresh = () => Promise.all([queries.invalidateQueries({ queryKey: ["rules"] }), queries.invalidateQueries({ queryKey: ["incidents"] })]);
  const failed = (error: Error) => notify({ text: error.message });
  const change = useMutation({ mutationFn: (on: boolean) => ask("PATCH", `/rules/${rule.id}`, { on }), onSuccess: refresh, onError: failed });
  const putBack = () => {
    const { name, reading, compare, limit, mustLastSeconds, staysRaisedSeconds, severity } = rule;
    void ask("POST", "/rules", { name, reading, compare, limit, mustLastSeconds, staysRaisedSeconds, severity }).then(refresh, failed);
  };
  const remove = useMutation({
    mutationFn: () => ask("DELETE", `/rules/${rule.id}`),
    onSuccess: async () => {
      notify({ text: `The rule “${rule.name}” is removed; its incidents stay.`, action: { words: "Put it back", run: putBack }, forMs: 20_000 });
      await refresh();
    },
    onError: failed,
  });
  const unit = rule.reading.unit ?? "1";
  const busy = change.isPending || remove.isPending;
  return (
    <li className="flex flex-wrap items-center gap-x-5 gap-y-1 border-t border-hairline py-2" data-rule={rule.id}>
      <span className="flex min-w-64 flex-1 items-start gap-2">
        <span className="pt-1"><Signal of={(rule.on && rule.mode) || "quiet"} severity={rule.severity} /></span>
        <span>
          <span className={rule.on ? "font-semibold" : "text-quiet"}>{rule.name}</span>
          <span className="block text-[13px] text-quiet">
            {rule.mustLastSeconds === 0 ? "raised at once" : `must last ${rule.mustLastSeconds} s`}, {rule.staysRaisedSeconds === 0 ? "cleared at once" : `stays raised ${rule.staysRaisedSeconds} s`}, {rule.severity}, checked every 5 s
          </span>
          {rule.failure && <span role="alert" className="block text-[13px] text-urgent">The last check failed: {rule.failure}</span>}
        </span>
      </span>
      <span className="w-56 text-[13px]">
        {!rule.on && "switched off"}
        {rule.on && (rule.mode === null ? "not checked yet" : <>{signalWords[rule.mode]} since <span className="figure">{rule.sinceMs === null ? "–" : momentText(rule.sinceMs, nowMs)}</span></>)}
      </span>
      <span className="w-24 text-right"><Quantity value={rule.on ? rule.value : null} unit={unit} /></span>
      <span className="flex gap-4">
        <button type="button" className="word-link" disabled={busy} onClick={() => change.mutate(!rule.on)} aria-label={`switch ${rule.on ? "off" : "on"}: ${rule.name}`}>
          switch {rule.on ? "off" : "on"}
        </button>
        <button type="button" className="word-link" disabled={busy} onClick={() => remove.mutate()} aria-label={`remove: ${rule.name}`}>
          remove
        </button>
      </span>
    </li>
  );
}
