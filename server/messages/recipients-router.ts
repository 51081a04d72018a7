import { pageFields, tellNext } from "../http/next-page.ts";
import * as routes from "../../core/api/messages.ts";
import { serve } from "../http/serve.ts";
import { randomUUID } from "node:crypto";
import { Router } from "express";
import Joi from "joi";
import type { RecipientView } from "../../core/api/messages.ts";
import { messageKinds } from "../../core/messages/decide.ts";
import {
  type DeviceSettings,
  type MailSettings,
  type RecipientSettings,
  recipientKinds,
  type RecipientTexts,
  type RecipientWhen,
  type WebhookSettings,
} from "../../core/messages/recipient.ts";
import { severities } from "../../core/rules/rule.ts";
import type { Database } from "../db/pool.ts";
import type { Deliverer } from "./deliverer.ts";
import type { Dispatcher } from "./dispatcher.ts";
import { listMessages } from "./message-rows.ts";
import {
  insertRecipient,
  recipientRow,
  removeRecipient,
  type StoredRecipient,
  updateRecipient,
} from "./recipient-rows.ts";
import { destinationOf, openKept, sealKept, withoutSecrets, withSecrets } from "./kept-secrets.ts";
import { SealedError, type SecretBox } from "../sources/secret-box.ts";
import type { PushKeys } from "./push-keys.ts";
import { subscriptionOf } from "./send-push.ts";
import { deviceWords } from "../people/device-words.ts";
import { checked } from "../http/checked.ts";
import { Problem } from "../http/problem.ts";
import { isZone } from "../../core/time/is-zone.ts";

const mostMessages = 300;
const whole = (least: number, most: number) => Joi.number().integer().min(least).max(most);
const week = 604_800;
const pem = Joi.string().allow("").max(65_536).default("");
const headerName = /^[!#$%&'*+.^_`|~0-9A-Za-z-]{1,100}$/; // RFC 9110 §5.1
const own = /^(content-|nubrel-|host$|connection$|transfer-encoding$|user-agent$)/i;
const mailAddress = Joi.string()
  .max(320)
  .pattern(/^(?:[^<>"\r\n]{0,200}<)?[^\s@<>"]{1,64}@[^\s@<>"]{1,255}>?$/, "an address such as ines@example.org");

const mail = Joi.object<MailSettings>({
  to: Joi.array().items(mailAddress).min(1).max(50).required(),
  from: mailAddress.required(),
  host: Joi.string()
    .max(253)
    .pattern(/^[a-zA-Z0-9._:-]+$/, "a name or an address in numbers")
    .required(),
  port: whole(1, 65_535).required(),
  security: Joi.valid("tls", "starttls", "none").default("starttls"),
  user: Joi.string().allow("").max(500).default(""),
  issuer: pem,
});
const webhook = Joi.object<WebhookSettings>({
  url: Joi.string()
    .max(2000)
    .uri({ scheme: ["http", "https"] })
    .required()
    .messages({ "string.uriCustomScheme": "{{#label}} begins with https:// or http://, then name, port and path" }),
  headers: Joi.array()
    .items(
      Joi.object({
        name: Joi.string()
          .pattern(headerName, "a header's name")
          .custom((name: string, helpers) => (own.test(name) ? helpers.error("own") : name))
          .messages({ own: "{{#label}} is a header that Nubrel sets itself" })
          .required(),
        value: Joi.string()
          .allow("")
          .max(4000)
          .pattern(/^[^\r\n]*$/, "one line")
          .required(),
      }),
    )
    .max(30)
    .default([]),
  issuer: pem,
});
const device = Joi.object<DeviceSettings>({
  service: Joi.string()
    .max(300)
    .uri({ scheme: ["http", "https"] })
    .required(),
  words: Joi.string().trim().max(200).allow("").default(""),
});
const when = Joi.object<RecipientWhen>({
  severities: Joi.array()
    .items(Joi.valid(...severities))
    .unique()
    .default([]),
  tags: Joi.array()
    .items(
      Joi.object({
        tag: Joi.string().min(1).max(100).required(),
        is: Joi.array().items(Joi.string().allow("").max(500)).min(1).max(200).required(),
      }),
    )
    .max(20)
    .default([]),
  weekdays: Joi.array().items(whole(1, 7)).unique().default([]),
  hours: Joi.object({ from: whole(0, 23).required(), to: whole(0, 24).invalid(Joi.ref("from")).required() })
    .allow(null)
    .default(null),
  zone: Joi.string()
    .max(100)
    .default("UTC")
    .custom((zone: string, helpers) => (isZone(zone) ? zone : helpers.error("zone")))
    .messages({ zone: "{{#label}} is no time zone's name, such as Europe/Berlin" }),
});
const texts = Joi.object<RecipientTexts>({
  subject: Joi.string().allow("").max(500).default(""),
  body: Joi.string().allow("").max(10_000).default(""),
});

interface Sent extends RecipientSettings {
  /** A password or secret to be kept; null: none; left out: the one that is there. */
  readonly secret?: string | null;
}

const recipientSchema = Joi.object<Sent>({
  name: Joi.string().trim().min(1).max(200).required(),
  kind: Joi.valid(...recipientKinds).required(),
  mail: Joi.when("kind", { is: "email", then: mail.required(), otherwise: Joi.valid(null).default(null) }),
  webhook: Joi.when("kind", { is: "webhook", then: webhook.required(), otherwise: Joi.valid(null).default(null) }),
  device: Joi.when("kind", { is: "device", then: device.required(), otherwise: Joi.valid(null).default(null) }),
  when: when.default(when.validate({}).value),
  groupSeconds: whole(0, 3600).default(0),
  repeatSeconds: whole(0, week).default(0),
  onRecovery: Joi.boolean().default(true),
  escalation: Joi.object({ afterSeconds: whole(60, week).required(), to: whole(1, 0x7fffffff).required() })
    .allow(null)
    .default(null),
  texts: texts.default({ subject: "", body: "" }),
  on: Joi.boolean().default(true),
  secret: Joi.string().allow("").max(4000).allow(null),
});
const previewSchema = Joi.object<{ texts: RecipientTexts; kind: (typeof messageKinds)[number]; zone: string }>({
  texts: texts.required(),
  kind: Joi.valid(...messageKinds).default("raised"),
  zone: Joi.string().max(100).default("UTC"),
});
const messagesSchema = Joi.object<{ incident?: number; most: number; before?: string }>({
  incident: whole(1, 2 ** 52),
  ...pageFields(100, mostMessages),
  before: Joi.string().guid(),
});

interface RecipientsParts {
  readonly database: Database;
  readonly dispatcher: Dispatcher;
  readonly deliverer: Deliverer;
  readonly box: SecretBox;
  readonly pushKeys: PushKeys;
}

/** Who is told, tried and changed, and what was sent. */
// biome-ignore lint/complexity/noExcessiveLinesPerFunction: the routes of one subject
export function recipientsRouter({ database, dispatcher, deliverer, box, pushKeys }: RecipientsParts): Router {
  const router = Router();
  const viewOf = (stored: StoredRecipient) => viewWith(stored, box);

  /**
   * What is to be kept of what was sent: values left out stay, and those serve the place for which they were entered
   * only.
   */
  const split = (
    { secret, ...sent }: Sent,
    known: StoredRecipient | undefined,
  ): { readonly settings: RecipientSettings; readonly sealed: Buffer | null } => {
    const before = known ? openKept(box, known.secret) : undefined;
    const settings = before ? withSecrets(sent, { ...before, url: null }) : sent;
    const keeps =
      before !== undefined &&
      ((secret === undefined && before.secret !== null) ||
        (sent.webhook?.headers ?? []).some(({ name, value }) => value === "" && (before.headers[name] ?? "") !== ""));
    if (keeps && known && destinationOf(sent) !== destinationOf(withSecrets(known, before)))
      throw new Problem(
        422,
        "another-destination",
        "The password, secret and headers' values that are kept were entered for another destination. Enter them again for this one.",
        { errors: [{ path: "secret", message: "was entered for another destination" }] },
      );
    if (settings.device && secret) assertSubscribed(settings.device, secret);
    const headers = Object.fromEntries((settings.webhook?.headers ?? []).map(({ name, value }) => [name, value]));
    const kept = {
      secret: secret === undefined ? (before?.secret ?? null) : secret === "" ? null : secret,
      url: settings.webhook?.url ?? null,
      headers,
    };
    return { settings: withoutSecrets(settings), sealed: sealKept(box, kept) };
  };

  serve(router, routes.listRecipients, {}, async () => (await dispatcher.listed()).map(viewOf));

  serve(router, routes.makeRecipient, { body: recipientSchema }, async ({ body, request }) => {
    // A browser adds itself, and says in every request what it is.
    const words = deviceWords(request.get("user-agent") ?? "");
    const named = body.device && { ...body, device: { ...body.device, words: body.device.words || words } };
    const { settings, sealed } = split(named ?? body, undefined);
    const made = await insertRecipient(database, settings, sealed);
    dispatcher.forget();
    return viewOf(made);
  });

  // Before it is saved: a message goes out at once, and the answer is what the other side said.
  serve(router, routes.tryRecipient, {}, async ({ request }) => {
    const { id, ...body } = (request.body ?? {}) as { id?: unknown };
    const known =
      id === undefined ? undefined : await recipientRow(database, checked(whole(1, 0x7fffffff).required(), id));
    const { settings, sealed } = split(checked(recipientSchema, body), known);
    const recipient: StoredRecipient = {
      ...settings,
      id: known?.id ?? 0,
      secret: sealed,
      hasSecret: false,
      failingSinceMs: null,
      failure: null,
    };
    const { worked, answer } = await deliverer.send(recipient, { id: randomUUID(), kind: "test", incidentIds: [] }, [
      await deliverer.sampleIncident(),
    ]);
    return { worked, answer };
  });

  serve(router, routes.getPushKey, {}, async () => ({ key: (await pushKeys.pair()).publicKey }));

  serve(router, routes.previewMessage, { body: previewSchema }, async ({ body: { texts: wish, kind, zone } }) => {
    const { subject, text } = await deliverer.rendered(
      randomUUID(),
      kind,
      [await deliverer.sampleIncident()],
      wish,
      zone,
      false,
    );
    return { subject, text };
  });

  serve(router, routes.changeRecipient, { body: recipientSchema }, async ({ params: { id }, body }) => {
    const known = await recipientRow(database, id);
    if (!known) throw noRecipient(id);
    const { settings, sealed } = split(body, known);
    const saved = await updateRecipient(database, id, settings, sealed);
    if (!saved) throw noRecipient(id);
    dispatcher.forget();
    return viewOf(saved);
  });

  serve(router, routes.removeRecipient, {}, async ({ params: { id } }) => {
    if (!(await removeRecipient(database, id))) throw noRecipient(id);
    dispatcher.forget();
  });

  serve(router, routes.listMessages, { query: messagesSchema }, async ({ query, request, response }) => {
    const { most, incident, before } = query;
    const found = await listMessages(database, most, incident ?? null, before);
    tellNext(request, response, found, most);
    return found;
  });
  return router;
}

/** A device's secret is its subscription, at the service that is shown. Throws Problem. */
function assertSubscribed({ service }: DeviceSettings, secret: string): void {
  const subscription = subscriptionOf(secret);
  const words = !subscription
    ? "is no subscription of a browser: its endpoint and its keys"
    : new URL(subscription.endpoint).origin !== new URL(service).origin
      ? "is of another push service than the one that is named"
      : undefined;
  if (words !== undefined)
    throw new Problem(422, "the-request-does-not-fit", `"secret" ${words}.`, {
      errors: [{ path: "secret", message: words }],
    });
}

const noRecipient = (id: number) =>
  new Problem(404, "no-such-recipient", `There is no recipient ${id}; it may have been removed meanwhile.`);

/** What is sealed never leaves, but for a webhook's address, which people see to change it. */
function viewWith({ secret: sealed, ...view }: StoredRecipient, box: SecretBox): RecipientView {
  try {
    const { secret, url } = openKept(box, sealed);
    return {
      ...view,
      webhook: view.webhook && {
        ...view.webhook,
        url: url ?? view.webhook.url,
        headers: view.webhook.headers.map(({ name }) => ({ name, value: "" })),
      },
      hasSecret: secret !== null,
    };
  } catch (error) {
    if (!(error instanceof SealedError)) throw error;
    return { ...view, hasSecret: true };
  }
}
