import { Beside } from "../../ui/beside.tsx";
import { changeAlerting } from "../../../../core/api/alerting.ts";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { type ReactNode, useState } from "react";
import { type RecipientView, removeRecipient } from "../../../../core/api/messages.ts";
import { call } from "../../api/client.ts";
import { alertingQuery, messagesQuery, recipientsQuery } from "../../api/queries.ts";
import { useToasts } from "../../shared/toasts.ts";
import { momentText } from "../../time/moments.ts";
import { useTime } from "../../time/time-provider.tsx";
import { AddDevice } from "./add-device.tsx";
import { AlertsHeading } from "./alerts-heading.tsx";
import { DesktopNotifications } from "./desktop-part.tsx";
import { MessageRows } from "./message-rows.tsx";
import { RecipientForm } from "./recipient-form.tsx";

/** Who is told of what, by mail, webhook and this browser; what was sent; and what looks after alerting itself. */
export function RecipientsView(): ReactNode {
  const { nowMs } = useTime();
  const recipients = useQuery(recipientsQuery);
  const messages = useQuery(messagesQuery);
  const [editing, setEditing] = useState<number | "email" | "webhook" | null>(null);
  const edited = typeof editing === "number" ? recipients.data?.find(({ id }) => id === editing) : undefined;
  const messagesPart = (
    <section aria-labelledby="messages" className="py-4">
      <h2 id="messages" className="font-bold">
        Messages
      </h2>
      {messages.data?.length === 0 && (
        <p className="py-2 text-quiet">
          None yet. Each message stands here with every attempt and what the other side answered.
        </p>
      )}
      {messages.data && messages.data.length > 0 && <MessageRows messages={messages.data} nowMs={nowMs} />}
    </section>
  );
  return (
    <>
      <AlertsHeading>who is told of what, and what was sent</AlertsHeading>
      {editing !== null && (
        <RecipientForm
          key={String(editing)}
          kind={edited?.kind ?? (editing === "webhook" ? "webhook" : "email")}
          saved={edited}
          others={(recipients.data ?? []).filter(({ id }) => id !== edited?.id)}
          onClose={() => setEditing(null)}
        />
      )}
      <Beside label="What was sent" aside={messagesPart}>
        <section aria-labelledby="recipients" className="py-4">
          <h2 id="recipients" className="flex flex-wrap items-baseline gap-4 font-bold">
            Recipients
            <button type="button" className="word-link text-[14px] font-normal" onClick={() => setEditing("email")}>
              by mail …
            </button>
            <button type="button" className="word-link text-[14px] font-normal" onClick={() => setEditing("webhook")}>
              by webhook …
            </button>
            <AddDevice />
          </h2>
          {recipients.error && (
            <p role="alert" className="text-urgent">
              {recipients.error.message}
            </p>
          )}
          {recipients.data?.length === 0 && editing === null && (
            <p className="max-w-prose py-2 text-quiet">
              Nobody yet: incidents are told on open pages of this application only. Add a mail address or a webhook,
              and try it before it is saved, or have this browser told while no page is open.
            </p>
          )}
          <ul>
            {recipients.data?.map((one) => (
              <RecipientRow key={one.id} recipient={one} nowMs={nowMs} onEdit={() => setEditing(one.id)} />
            ))}
          </ul>
          <DesktopNotifications />
        </section>
        <WatcherPart />
      </Beside>
    </>
  );
}

const kindWords = { email: "mail", webhook: "webhook", device: "a browser" } as const;

function RecipientRow({
  recipient,
  nowMs,
  onEdit,
}: {
  recipient: RecipientView;
  nowMs: number;
  onEdit: () => void;
}): ReactNode {
  const queries = useQueryClient();
  const toast = useToasts();
  const {
    id,
    name,
    kind,
    mail,
    webhook,
    device,
    when,
    on,
    onRecovery,
    repeatSeconds,
    escalation,
    failingSinceMs,
    failure,
  } = recipient;
  const remove = useMutation({
    mutationFn: () => call(removeRecipient, { id }),
    onSuccess: () => queries.invalidateQueries({ queryKey: ["recipients"] }),
    onError: (error) => toast({ text: error.message }),
  });
  const said = [
    when.severities.length === 1 && `${when.severities[0]} only`,
    ...when.tags.map(({ tag, is }) => `${tag} is ${is.join(" or ")}`),
    when.hours && `from ${when.hours.from}:00 to ${when.hours.to}:00`,
    when.weekdays.length > 0 && `on ${when.weekdays.length} days of the week`,
    repeatSeconds > 0 && "again until acknowledged",
    escalation && "then to another",
    onRecovery && "and when it is over",
  ]
    .filter(Boolean)
    .join(", ");
  return (
    <li
      className="grid gap-x-5 border-t border-hairline py-2 md:grid-cols-[10rem_minmax(0,1fr)_8rem]"
      data-recipient={name}
    >
      <span>
        <span className={on ? "font-semibold" : "text-quiet"}>{name}</span>
        <span className="block text-[13px] text-quiet">
          {kindWords[kind]}
          {!on && ", switched off"}
        </span>
      </span>
      <span className="min-w-0">
        <span className="block truncate">
          {mail ? mail.to.join(", ") : (webhook?.url ?? `${device?.words}, by ${device?.service}`)}
        </span>
        <span className="block text-[13px] text-quiet">{said}</span>
        {failingSinceMs !== null && (
          <span role="alert" className="block text-[13px] text-urgent">
            Not reached since {momentText(failingSinceMs, nowMs)}: {failure}
          </span>
        )}
      </span>
      <span className="flex gap-4">
        <button type="button" className="word-link" onClick={onEdit} aria-label={`change ${name}`}>
          change
        </button>
        <button
          type="button"
          className="word-link"
          disabled={remove.isPending}
          onClick={() => remove.mutate()}
          aria-label={`remove ${name}`}
        >
          remove
        </button>
      </span>
    </li>
  );
}

/** The watcher is watched: how late checks are, and what calls somebody outside. */
function WatcherPart(): ReactNode {
  const queries = useQueryClient();
  const { nowMs } = useTime();
  const alerting = useQuery(alertingQuery).data;
  const [typed, setTyped] = useState<{ readonly address: string; readonly heartbeatUrl: string } | null>(null);
  const save = useMutation({
    mutationFn: (settings: object) => call(changeAlerting, {}, settings),
    onSuccess: async () => {
      setTyped(null);
      await queries.invalidateQueries({ queryKey: ["alerting"] });
    },
  });
  if (!alerting) return null;
  const now = typed ?? { address: alerting.address, heartbeatUrl: alerting.heartbeat?.url ?? "" };
  return (
    <section aria-labelledby="watcher" className="border-t border-hairline py-4" data-watcher>
      <h2 id="watcher" className="font-bold">
        What watches the watcher
      </h2>
      <p className="py-1">
        <span className="figure">{alerting.checkedLines}</span> lines are checked, at most{" "}
        <span className="figure">{(alerting.lagMs / 1000).toFixed(1)} s</span> late in the last minute
        {alerting.failingRules > 0 && (
          <span className="text-urgent">; {alerting.failingRules} rules cannot be checked</span>
        )}
        .
      </p>
      <form
        className="flex flex-wrap items-end gap-4"
        onSubmit={(event) => {
          event.preventDefault();
          save.mutate(now);
        }}
      >
        <label>
          <span className="block text-[13px] text-quiet">
            Called every minute, so that something outside notices when Nubrel is gone
          </span>
          <input
            type="url"
            name="heartbeatUrl"
            value={now.heartbeatUrl}
            placeholder="https://…"
            onChange={(event) => setTyped({ ...now, heartbeatUrl: event.target.value })}
            className="w-96 max-w-full"
          />
        </label>
        <label>
          <span className="block text-[13px] text-quiet">Links in messages begin with</span>
          <input
            type="url"
            name="address"
            value={now.address}
            onChange={(event) => setTyped({ ...now, address: event.target.value })}
            className="w-72 max-w-full"
          />
        </label>
        <button type="submit" className="act-plain" disabled={typed === null || save.isPending}>
          Keep that
        </button>
      </form>
      {alerting.heartbeat && (
        <p className="pt-1 text-[13px] text-quiet">
          {alerting.heartbeat.failure ? (
            <span className="text-urgent">{alerting.heartbeat.failure}</span>
          ) : alerting.heartbeat.lastAtMs === null ? (
            "It is called within a minute."
          ) : (
            <>
              called last at <span className="moment">{momentText(alerting.heartbeat.lastAtMs, nowMs)}</span>
            </>
          )}
        </p>
      )}
      {save.error && (
        <p role="alert" className="text-urgent">
          {save.error.message}
        </p>
      )}
    </section>
  );
}
