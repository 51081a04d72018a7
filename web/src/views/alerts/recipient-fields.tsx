import { NumberField } from "../../ui/number-field.tsx";
import type { ReactNode } from "react";
import type { MailSettings, WebhookSettings } from "../../../../core/messages/recipient.ts";
import { SelectPart } from "../../sentence/select-part.tsx";
import { TypedInput } from "../../ui/typed-input.tsx";

interface SecretProps {
  readonly hasSecret: boolean;
  readonly secret: string;
  readonly onSecret: (secret: string) => void;
}

const ports = { tls: 465, starttls: 587, none: 25 } as const;

/** Where mail goes and by which server. */
export function MailFields({
  mail,
  onChange,
  hasSecret,
  secret,
  onSecret,
}: SecretProps & { mail: MailSettings; onChange: (mail: MailSettings) => void }): ReactNode {
  const set = (change: Partial<MailSettings>) => onChange({ ...mail, ...change });
  return (
    <>
      <div className="mt-2 flex flex-wrap gap-x-4 gap-y-2">
        <Field label="To, with commas">
          <TypedInput
            required
            name="mail.to"
            value={mail.to.join(", ")}
            onType={(text) =>
              set({
                to: text
                  .split(",")
                  .map((one) => one.trim())
                  .filter(Boolean),
              })
            }
            className="w-80 max-w-full"
          />
        </Field>
        <Field label="From">
          <input
            required
            name="mail.from"
            value={mail.from}
            onChange={(event) => set({ from: event.target.value.trim() })}
            className="w-64"
          />
        </Field>
      </div>
      <div className="mt-2 flex flex-wrap items-end gap-x-4 gap-y-2">
        <Field label="Mail server">
          <input
            required
            name="mail.host"
            value={mail.host}
            onChange={(event) => set({ host: event.target.value.trim() })}
            className="w-56"
          />
        </Field>
        <Field label="Port">
          <NumberField
            label="port"
            name="mail.port"
            required
            least={1}
            most={65_535}
            value={mail.port}
            usual="587"
            onChange={(port) => port !== undefined && set({ port })}
          />
        </Field>
        <span className="pb-1">
          <SelectPart
            label="security"
            value={mail.security}
            options={[
              ["starttls", "STARTTLS, refused without"],
              ["tls", "TLS from the first byte"],
              ["none", "in clear text"],
            ]}
            onChange={(security) =>
              set({
                security: security as MailSettings["security"],
                port: Object.values(ports).includes(mail.port as 25)
                  ? ports[security as MailSettings["security"]]
                  : mail.port,
              })
            }
          />
        </span>
        <Field label="User (none: without)">
          <input
            name="mail.user"
            value={mail.user}
            autoComplete="off"
            onChange={(event) => set({ user: event.target.value })}
            className="w-48"
          />
        </Field>
        <Field label="Password">
          <input
            type="password"
            value={secret}
            autoComplete="new-password"
            placeholder={hasSecret ? "the one that is kept" : ""}
            onChange={(event) => onSecret(event.target.value)}
            className="w-48"
          />
        </Field>
      </div>
      {mail.security === "none" && (
        <p className="text-[13px] text-notice">Everything, the password too, crosses the network in clear text.</p>
      )}
      <IssuerField issuer={mail.issuer} onChange={(issuer) => set({ issuer })} />
    </>
  );
}

/** Where a webhook goes, with headers of one's own and the secret by which it is signed. */
export function WebhookFields({
  webhook,
  onChange,
  hasSecret,
  hasKept,
  secret,
  onSecret,
}: SecretProps & {
  hasKept: boolean;
  webhook: WebhookSettings;
  onChange: (webhook: WebhookSettings) => void;
}): ReactNode {
  const set = (change: Partial<WebhookSettings>) => onChange({ ...webhook, ...change });
  const { headers } = webhook;
  return (
    <>
      <div className="mt-2 flex flex-wrap gap-x-4 gap-y-2">
        <Field label="Address">
          <input
            required
            type="url"
            name="webhook.url"
            value={webhook.url}
            placeholder="https://…"
            onChange={(event) => set({ url: event.target.value.trim() })}
            className="w-96 max-w-full"
          />
        </Field>
        <Field label="Secret by which it is signed (none: unsigned)">
          <input
            type="password"
            value={secret}
            autoComplete="new-password"
            placeholder={hasSecret ? "the one that is kept" : ""}
            onChange={(event) => onSecret(event.target.value)}
            className="w-64"
          />
        </Field>
      </div>
      <fieldset className="mt-1">
        <legend className="text-[13px] text-quiet">Headers</legend>
        {headers.map((header, i) => (
          // biome-ignore lint/suspicious/noArrayIndexKey: a header is its place
          <p key={i} className="flex gap-2 py-0.5">
            <input
              aria-label={`header ${i + 1}`}
              value={header.name}
              onChange={(event) =>
                set({ headers: headers.map((one, k) => (k === i ? { ...one, name: event.target.value } : one)) })
              }
              className="w-48 !py-0"
            />
            <input
              aria-label={`value of header ${i + 1}`}
              value={header.value}
              placeholder={hasKept ? "the one that is kept" : ""}
              onChange={(event) =>
                set({ headers: headers.map((one, k) => (k === i ? { ...one, value: event.target.value } : one)) })
              }
              className="w-80 !py-0"
            />
            <button
              type="button"
              className="word-link text-[13px]"
              onClick={() => set({ headers: headers.filter((_, k) => k !== i) })}
            >
              leave out
            </button>
          </p>
        ))}
        <button
          type="button"
          className="word-link text-[13px]"
          onClick={() => set({ headers: [...headers, { name: "", value: "" }] })}
        >
          a header …
        </button>
      </fieldset>
      <IssuerField issuer={webhook.issuer} onChange={(issuer) => set({ issuer })} />
    </>
  );
}

function Field({ label, children }: { label: string; children: ReactNode }): ReactNode {
  return (
    // biome-ignore lint/a11y/noLabelWithoutControl: the control is its child
    <label>
      <span className="block text-[13px] text-quiet">{label}</span>
      {children}
    </label>
  );
}

function IssuerField({ issuer, onChange }: { issuer: string; onChange: (issuer: string) => void }): ReactNode {
  return (
    <details className="mt-1" open={issuer !== ""}>
      <summary className="word-link w-fit cursor-pointer text-[13px]">its issuer's certificate …</summary>
      <textarea
        aria-label="issuer's certificate (PEM)"
        value={issuer}
        spellCheck={false}
        onChange={(event) => onChange(event.target.value)}
        placeholder="-----BEGIN CERTIFICATE-----"
        className="figure mt-1 h-24 w-full max-w-3xl border border-hairline bg-transparent p-2 text-[12px]"
      />
    </details>
  );
}
