import { type ReactNode, useCallback, useRef, useState } from "react";
import type { LiveMessage } from "../api/live-stream.ts";
import { useLiveMessages } from "../api/live-provider.tsx";
import { incidentText } from "../../../core/rules/incident-text.ts";
import { type Toast, ToastsContext } from "../shared/toasts.ts";
import { Signal } from "../ui/signal.tsx";
import { tellDesktop } from "./desktop-notifications.ts";
import { useMissed } from "./use-missed.ts";
import { useGo } from "../time/use-go.ts";
import { exactClockTime } from "../time/moments.ts";

const mostShown = 4;

/**
 * Shows what happens, wherever the person is: incidents as the server tells of them, and what the application says
 * itself.
 */
export function ToastsProvider({ children }: { children: ReactNode }): ReactNode {
  const [shown, setShown] = useState<readonly (Toast & { readonly id: number; readonly atMs: number })[]>([]);
  const goTo = useGo();
  const go = useRef(goTo);
  go.current = goTo;
  const close = useCallback((id: number) => setShown((before) => before.filter((toast) => toast.id !== id)), []);
  const show = useCallback(
    (toast: Toast) => {
      const id = nextId++;
      setShown((before) => [...before.slice(-mostShown + 1), { ...toast, id, atMs: Date.now() }]);
      if (toast.forMs !== undefined) setTimeout(() => close(id), toast.forMs);
    },
    [close],
  );
  useLiveMessages(
    useCallback(
      (message: LiveMessage) => {
        if (message.kind !== "raised" && message.kind !== "worsened" && message.kind !== "cleared") return;
        if (message.isQuiet) return; // it stands under Alerts, with what hides it
        const { severity } = message.incident;
        const raised = message.kind !== "cleared";
        const look = () => go.current(`/alerts/incidents/${message.incident.id}`);
        if (raised) tellDesktop(message.incident, look);
        show({
          text: `${message.kind === "worsened" ? "Urgent now. " : ""}${incidentText(message.incident, raised ? "raised" : "cleared")}`,
          action: { words: "Look at it", run: look },
          signal: { of: raised ? "raised" : "quiet", severity },
          ...(!raised && { forMs: 15_000 }),
        });
      },
      [show],
    ),
  );
  useMissed(show, goTo);
  return (
    <ToastsContext value={show}>
      {children}
      <section
        aria-label="Notices"
        aria-live="polite"
        className="fixed right-4 bottom-32 z-30 flex w-80 max-w-[calc(100vw-2rem)] flex-col gap-2"
      >
        {shown.map(({ id, text, signal, action, atMs }) => (
          <div
            key={id}
            data-toast
            className={`border bg-paper p-3 ${signal?.of === "raised" ? (signal.severity === "urgent" ? "border-double border-4 border-urgent" : "border-notice") : "border-hairline"}`}
          >
            <p className="flex gap-2">
              {signal && (
                <span className="pt-1">
                  <Signal of={signal.of} severity={signal.severity} />
                </span>
              )}
              <span>{text}</span>
            </p>
            <p className="mt-1 flex gap-4 text-[13px]">
              <span className="moment text-quiet">{exactClockTime(atMs)}</span>
              {action && (
                <button
                  type="button"
                  className="word-link"
                  onClick={() => {
                    action.run();
                    close(id);
                  }}
                >
                  {action.words}
                </button>
              )}
              <button type="button" className="word-link ml-auto" onClick={() => close(id)}>
                Close
              </button>
            </p>
          </div>
        ))}
      </section>
    </ToastsContext>
  );
}

let nextId = 1;
