import { type ReactNode, useState } from "react";
import type { MessageView } from "../../../../core/api/messages.ts";
import { SectionLink } from "../../time/section-link.tsx";
import { exactClockTime, momentText } from "../../time/moments.ts";

/** Messages with every attempt to deliver them, and what the other side answered. */
export function MessageRows({ messages, nowMs }: { messages: readonly MessageView[]; nowMs: number }): ReactNode {
  return (
    <ul>
      {messages.map((message) => (
        <MessageRow key={message.id} message={message} nowMs={nowMs} />
      ))}
    </ul>
  );
}

function MessageRow({
  message: { id, recipient, kind, incidents, createdAtMs, state, attempts },
  nowMs,
}: {
  message: MessageView;
  nowMs: number;
}): ReactNode {
  const [isOpen, setIsOpen] = useState(false);
  const last = attempts.at(-1);
  return (
    <li className="border-t border-hairline py-1.5 text-[14px]" data-message={state}>
      <p className="grid gap-x-4 sm:grid-cols-[6.5rem_8rem_minmax(0,1fr)_auto]">
        <span className="moment text-quiet">{momentText(createdAtMs, nowMs)}</span>
        <span className="truncate">{recipient}</span>
        <span className="min-w-0 truncate">
          {kind}:{" "}
          {incidents.map((incident, i) => (
            <span key={incident.id}>
              {i > 0 && ", "}
              <SectionLink to={`/alerts/incidents/${incident.id}`} className="hover:underline">
                {incident.ruleName}
              </SectionLink>
            </span>
          ))}
        </span>
        <span>
          <button
            type="button"
            className={state === "sent" ? "word-link" : "word-link text-notice"}
            aria-expanded={isOpen}
            onClick={() => setIsOpen(!isOpen)}
          >
            {state === "sent"
              ? `sent${last ? ` at ${exactClockTime(last.atMs)}` : ""}`
              : state === "given up" || state === "replaced"
                ? state
                : attempts.length === 0
                  ? "on its way"
                  : `not reached yet, ${attempts.length} ${attempts.length === 1 ? "try" : "tries"}`}
          </button>
        </span>
      </p>
      {isOpen && (
        <ol className="mt-1 ml-26 text-[13px]">
          {attempts.map((attempt) => (
            <li key={attempt.atMs} className="grid grid-cols-[5rem_minmax(0,1fr)] gap-2">
              <span className="moment text-quiet">{exactClockTime(attempt.atMs)}</span>
              <pre className={`figure overflow-auto whitespace-pre-wrap ${attempt.worked ? "" : "text-notice"}`}>
                {attempt.answer}
              </pre>
            </li>
          ))}
          {attempts.length === 0 && <li className="text-quiet">It has not been tried yet.</li>}
          <li className="text-quiet">message {id}</li>
        </ol>
      )}
    </li>
  );
}
