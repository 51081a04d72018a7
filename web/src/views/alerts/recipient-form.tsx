import { Beside } from "../../ui/beside.tsx";
import { MessagePreview } from "./message-preview.tsx";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { type ReactNode, useState } from "react";
import { changeRecipient, makeRecipient, type RecipientView, tryRecipient } from "../../../../core/api/messages.ts";
import type { RecipientKind, RecipientSettings } from "../../../../core/messages/recipient.ts";
import { placeholders } from "../../../../core/messages/texts.ts";
import { severities } from "../../../../core/rules/rule.ts";
import { presentSpan } from "../../../../core/units/present.ts";
import { call } from "../../api/client.ts";
import { SelectPart } from "../../sentence/select-part.tsx";
import { MailFields, WebhookFields } from "./recipient-fields.tsx";
import { TagConditions } from "./tag-conditions.tsx";

const weekdays = ["Mon", "Tue", "Wed", "Thu", "Fri", "Sat", "Sun"] as const;
const hours = Array.from({ length: 25 }, (_, hour): readonly [string, string] => [
  String(hour),
  `${String(hour).padStart(2, "0")}:00`,
]);
const spans = (first: string, seconds: readonly number[]): readonly (readonly [string, string])[] => [
  ["0", first],
  ...seconds.map((one): readonly [string, string] => [String(one), presentSpan(one * 1000)]),
];

interface RecipientFormProps {
  readonly kind: RecipientKind;
  readonly saved: RecipientView | undefined;
  readonly others: readonly RecipientView[];
  readonly onClose: () => void;
}

const defaultsOf = (kind: RecipientKind): RecipientSettings => ({
  name: "",
  kind,
  mail: kind === "email" ? { to: [], from: "", host: "", port: 587, security: "starttls", user: "", issuer: "" } : null,
  webhook: kind === "webhook" ? { url: "", headers: [], issuer: "" } : null,
  when: { severities: [], tags: [], weekdays: [], hours: null, zone: Intl.DateTimeFormat().resolvedOptions().timeZone },
  groupSeconds: 0,
  repeatSeconds: 0,
  onRecovery: true,
  escalation: null,
  texts: { subject: "", body: "" },
  on: true,
});

/**
 * A recipient: where it goes, of what and when, how often; tried before it is saved, with the other side's answer as it
 * was.
 */
export function RecipientForm({ kind, saved, others, onClose }: RecipientFormProps): ReactNode {
  const queries = useQueryClient();
  const [one, setOne] = useState<RecipientSettings>(() => (saved ? settingsOf(saved) : defaultsOf(kind)));
  const [secret, setSecret] = useState("");
  const set = (change: Partial<RecipientSettings>) => setOne({ ...one, ...change });
  const body = { ...one, ...(secret !== "" && { secret }) };
  const attempt = useMutation({
    mutationFn: () => call(tryRecipient, {}, { ...body, ...(saved && { id: saved.id }) }),
  });
  const save = useMutation({
    mutationFn: () => (saved ? call(changeRecipient, { id: saved.id }, body) : call(makeRecipient, {}, body)),
    onSuccess: async () => {
      await queries.invalidateQueries({ queryKey: ["recipients"] });
      await queries.invalidateQueries({ queryKey: ["alerting"] });
      onClose();
    },
  });
  const { when } = one;
  const setWhen = (change: Partial<typeof when>) => set({ when: { ...when, ...change } });
  return (
    <Beside label="What would be told" aside={<MessagePreview texts={one.texts} zone={when.zone} />}>
      <form
        aria-label="A recipient"
        className="my-3 border-l-2 border-act py-1 pl-4"
        data-recipient-form
        onSubmit={(event) => {
          event.preventDefault();
          save.mutate();
        }}
      >
        <label>
          <span className="block text-[13px] text-quiet">Name</span>
          <input
            required
            name="name"
            maxLength={200}
            value={one.name}
            onChange={(event) => set({ name: event.target.value })}
            className="w-64"
          />
        </label>
        {one.mail && (
          <MailFields
            mail={one.mail}
            hasSecret={saved?.hasSecret ?? false}
            secret={secret}
            onSecret={setSecret}
            onChange={(mail) => set({ mail })}
          />
        )}
        {one.webhook && (
          <WebhookFields
            webhook={one.webhook}
            hasKept={saved !== undefined}
            hasSecret={saved?.hasSecret ?? false}
            secret={secret}
            onSecret={setSecret}
            onChange={(webhook) => set({ webhook })}
          />
        )}
        <WhenSentence one={one} others={others} onChange={set} />
        <p className="flex flex-wrap gap-x-5">
          <span className="text-quiet">on (none: every day)</span>
          {weekdays.map((day, i) => (
            <label key={day} className="flex items-center gap-1">
              <input
                type="checkbox"
                className="accent-act"
                checked={when.weekdays.includes(i + 1)}
                onChange={(event) =>
                  setWhen({
                    weekdays: (event.target.checked
                      ? [...when.weekdays, i + 1]
                      : when.weekdays.filter((other) => other !== i + 1)
                    ).toSorted(),
                  })
                }
              />
              {day}
            </label>
          ))}
          <label className="flex items-center gap-1.5">
            <input
              type="checkbox"
              className="accent-act"
              checked={one.onRecovery}
              onChange={(event) => set({ onRecovery: event.target.checked })}
            />
            also when it is over
          </label>
          <label className="flex items-center gap-1.5">
            <input
              type="checkbox"
              className="accent-act"
              checked={one.on}
              onChange={(event) => set({ on: event.target.checked })}
            />
            switched on
          </label>
        </p>
        <TagConditions tags={when.tags} onChange={(tags) => setWhen({ tags })} />
        <TextsPart texts={one.texts} onChange={(texts) => set({ texts })} />
        {attempt.error && (
          <p role="alert" className="mt-2 text-urgent">
            {attempt.error.message}
          </p>
        )}
        {attempt.data && <TryOutcome {...attempt.data} />}
        {save.error && (
          <p role="alert" className="mt-2 text-urgent">
            {save.error.message}
          </p>
        )}
        <p className="mt-2 flex gap-3">
          <button type="submit" className="act" disabled={save.isPending}>
            {save.isPending ? "saving …" : "Save"}
          </button>
          <button type="button" className="act-plain" disabled={attempt.isPending} onClick={() => attempt.mutate()}>
            {attempt.isPending ? "sending …" : "Send a test message"}
          </button>
          <button type="button" className="act-plain" onClick={onClose}>
            Leave it
          </button>
        </p>
      </form>
    </Beside>
  );
}

interface WhenProps {
  readonly one: RecipientSettings;
  readonly others: readonly RecipientView[];
  readonly onChange: (change: Partial<RecipientSettings>) => void;
}

/** Of what a recipient is told, when, how often, and who is told then. */
function WhenSentence({ one, others, onChange }: WhenProps): ReactNode {
  const { when } = one;
  const setWhen = (change: Partial<typeof when>) => onChange({ when: { ...when, ...change } });
  return (
    <p className="mt-2 leading-9">
      Told of{" "}
      <SelectPart
        label="severities"
        value={when.severities[0] ?? ""}
        options={[
          ["", "notices and what is urgent"],
          ...severities.map((severity): readonly [string, string] => [
            severity,
            severity === "urgent" ? "what is urgent" : "notices",
          ]),
        ]}
        onChange={(severity) => setWhen({ severities: severity === "" ? [] : [severity as "notice"] })}
      />
      ,{" "}
      <SelectPart
        label="hours"
        value={when.hours === null ? "" : "some"}
        options={[
          ["", "at any hour"],
          ["some", "from"],
        ]}
        onChange={(some) => setWhen({ hours: some === "" ? null : { from: 8, to: 22 } })}
      />
      {when.hours && (
        <>
          {" "}
          <SelectPart
            label="hours begin"
            value={String(when.hours.from)}
            options={hours.slice(0, 24)}
            onChange={(from) => setWhen({ hours: { from: Number(from), to: when.hours?.to ?? 22 } })}
          />{" "}
          to{" "}
          <SelectPart
            label="hours end"
            value={String(when.hours.to)}
            options={hours}
            onChange={(to) => setWhen({ hours: { from: when.hours?.from ?? 8, to: Number(to) } })}
          />
        </>
      )}
      , by the clock of {when.zone}; what comes within{" "}
      <SelectPart
        label="grouped within"
        value={String(one.groupSeconds)}
        options={spans("no time at all", [10, 30, 60, 300])}
        onChange={(value) => onChange({ groupSeconds: Number(value) })}
      />{" "}
      is told together; told{" "}
      <SelectPart
        label="repeated after"
        value={String(one.repeatSeconds)}
        options={[
          ["0", "once"],
          ...spans("", [900, 1800, 3600, 14_400, 86_400])
            .slice(1)
            .map(([value, words]): readonly [string, string] => [
              value,
              `again every ${words} until somebody acknowledges it`,
            ]),
        ]}
        onChange={(value) => onChange({ repeatSeconds: Number(value) })}
      />
      {others.length > 0 && <EscalationPart escalation={one.escalation} others={others} onChange={onChange} />}.
    </p>
  );
}

/** Who is told when nobody acknowledges. */
function EscalationPart({
  escalation,
  others,
  onChange,
}: Pick<WhenProps, "others" | "onChange"> & Pick<RecipientSettings, "escalation">): ReactNode {
  return (
    <>
      ;{" "}
      <SelectPart
        label="escalated to"
        value={String(escalation?.to ?? "")}
        options={[
          ["", "to nobody else"],
          ...others.map(({ id, name }): readonly [string, string] => [String(id), `then to ${name}`]),
        ]}
        onChange={(to) =>
          onChange({
            escalation: to === "" ? null : { to: Number(to), afterSeconds: escalation?.afterSeconds ?? 900 },
          })
        }
      />
      {escalation && (
        <>
          {" "}
          when nobody has acknowledged it for{" "}
          <SelectPart
            label="escalated after"
            value={String(escalation.afterSeconds)}
            options={spans("", [300, 900, 1800, 3600]).slice(1)}
            onChange={(value) => onChange({ escalation: { to: escalation?.to ?? 0, afterSeconds: Number(value) } })}
          />
        </>
      )}
    </>
  );
}

/** What the other side said to a test message, as it was. */
function TryOutcome({ worked, answer }: { worked: boolean; answer: string }): ReactNode {
  return (
    <div role="status" className="mt-2" data-try={worked}>
      <p className={worked ? "" : "text-urgent"}>
        {worked ? "It was taken. The other side answered:" : "It was not taken. The answer:"}
      </p>
      <pre className="figure max-h-40 max-w-3xl overflow-auto border border-hairline p-2 text-[12.5px] whitespace-pre-wrap">
        {answer}
      </pre>
    </div>
  );
}

function settingsOf({
  id: _,
  hasSecret: __,
  failingSinceMs: ___,
  failure: ____,
  ...settings
}: RecipientView): RecipientSettings {
  return settings;
}

/** Texts of one's own; how they come out stands beside the form. */
function TextsPart({
  texts,
  onChange,
}: {
  texts: RecipientSettings["texts"];
  onChange: (texts: RecipientSettings["texts"]) => void;
}): ReactNode {
  const [isOpen, setIsOpen] = useState(texts.subject !== "" || texts.body !== "");
  if (!isOpen)
    return (
      <p className="mt-2">
        <button type="button" className="word-link text-[13.5px]" onClick={() => setIsOpen(true)}>
          texts of your own …
        </button>
      </p>
    );
  return (
    <fieldset className="mt-2">
      <legend className="text-[13px] text-quiet">
        Texts; an empty one is the usual one.{" "}
        {Object.keys(placeholders)
          .map((name) => `{${name}}`)
          .join(" ")}
      </legend>
      <label className="block">
        <span className="block text-[13px] text-quiet">Subject</span>
        <input
          name="texts.subject"
          value={texts.subject}
          maxLength={500}
          onChange={(event) => onChange({ ...texts, subject: event.target.value })}
          className="w-full"
        />
      </label>
      <label className="mt-1 block">
        <span className="block text-[13px] text-quiet">Text</span>
        <textarea
          name="texts.body"
          value={texts.body}
          maxLength={10_000}
          onChange={(event) => onChange({ ...texts, body: event.target.value })}
          className="h-28 w-full border border-hairline bg-transparent p-2"
        />
      </label>
    </fieldset>
  );
}
