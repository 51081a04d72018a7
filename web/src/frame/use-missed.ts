import { listIncidents } from "../../../core/api/incidents.ts";
import { useCallback, useRef } from "react";
import type { IncidentView } from "../../../core/rules/rule.ts";
import { call } from "../api/client.ts";
import { useLiveMessages } from "../api/live-provider.tsx";
import type { LiveMessage } from "../api/live-stream.ts";
import type { Toast } from "../shared/toasts.ts";

/** An incident is of the moment of its value, which was stored a little before it was told. */
const lateMs = 15_000;

/** A page that was away tells, when it is back, what was raised and cleared meanwhile. */
export function useMissed(show: (notice: Toast) => void, go: (address: string) => void): void {
  const heardMs = useRef(Date.now());
  const told = useRef(new Set<string>());
  const goTo = useRef(go);
  goTo.current = go;
  useLiveMessages(
    useCallback(
      (message: LiveMessage) => {
        const since = heardMs.current;
        heardMs.current = Date.now();
        if (message.kind === "raised" || message.kind === "cleared")
          told.current.add(`${message.kind} ${message.incident.id}`);
        if (message.kind !== "back") return;
        void call(listIncidents, {}, undefined, { query: { from: since - lateMs, to: Date.now() + 1 } }).then(
          (incidents) => {
            const isNew = (kind: "raised" | "cleared", { id }: IncidentView, atMs: number | null) =>
              atMs !== null && atMs > since - lateMs && !told.current.has(`${kind} ${id}`);
            const raised = incidents.filter((one) => isNew("raised", one, one.raisedAtMs)).length;
            const cleared = incidents.filter((one) => isNew("cleared", one, one.clearedAtMs)).length;
            if (raised + cleared === 0) return;
            const urgent = incidents.some(
              ({ severity, clearedAtMs, raisedAtMs }) =>
                severity === "urgent" && clearedAtMs === null && raisedAtMs > since,
            );
            show({
              text: `While this page was away: ${raised} raised, ${cleared} cleared.`,
              signal: { of: raised > 0 ? "raised" : "quiet", severity: urgent ? "urgent" : "notice" },
              action: { words: "Look at them", run: () => goTo.current("/alerts") },
            });
          },
          () => {}, // the next time it is back it is asked again
        );
      },
      [show],
    ),
  );
}
