import type { Rendered } from "./render.ts";
import type { Logger } from "pino";
import type { RecipientTexts } from "../../core/messages/recipient.ts";
import type { Line, ReadingAnswer } from "../../core/reading/document.ts";
import { incidentWindow } from "../../core/rules/incident-text.ts";
import type { IncidentView } from "../../core/rules/rule.ts";
import type { Database } from "../db/pool.ts";
import { answerReading } from "../reading/answer-reading.ts";
import { incidentOf, newestIncident } from "../rules/incident-rows.ts";
import type { MachineNames } from "../machines/machine-names.ts";
import type { SecretBox } from "../sources/secret-box.ts";
import type { Store } from "../store/store.ts";
import { addAttempt, messageOf, type StoredMessage, waitingWith } from "./message-rows.ts";
import type { PushKeys } from "./push-keys.ts";
import type { Outcome } from "./outcome.ts";
import { noteReached, recipientRow, type StoredRecipient } from "./recipient-rows.ts";
import { render, type TellIncident } from "./render.ts";
import { handOver } from "./hand-over.ts";

const picturePoints = 300;
const mostLines = 8;
/** What was different is looked for from so long before an incident, and over so much of it. */
const beforeMs = 900_000;
const leastSpanMs = 60_000;
const longestSpanMs = 2 * 3_600_000;

interface DelivererParts {
  readonly database: Database;
  readonly store: Store;
  readonly names: MachineNames;
  readonly box: SecretBox;
  readonly pushKeys: PushKeys;
  /** By which links begin. */
  readonly address: () => Promise<string>;
  readonly log: Logger;
  /** Says in a sentence what was most different in a span; undefined where nothing was. */
  readonly differed?: (fromMs: number, toMs: number, zone: string) => Promise<string | undefined>;
}

/** Sends messages, and writes down what the other side answered. */
export class Deliverer {
  readonly #parts: DelivererParts;

  constructor(parts: DelivererParts) {
    this.#parts = parts;
  }

  /**
   * One try of a durable job: throws where it did not work, so that it is tried again later; the last try gives up.
   * Jobs of one recipient run one after the other. Of one incident
   * the order is kept: what a newer message tells anew is not told any more, and what it does not is told before it.
   */
  async deliver(messageId: string, attempt: number, mostAttempts: number): Promise<void> {
    const { database } = this.#parts;
    const message = await messageOf(database, messageId);
    if (message?.state !== "waiting") return;
    const recipient = await recipientRow(database, message.recipientId);
    const now = Date.now();
    if (!recipient?.on) {
      await addAttempt(
        database,
        message.id,
        false,
        recipient ? "The recipient is switched off: it was not sent." : "The recipient has gone: it was not sent.",
        now,
        "given up",
      );
      return;
    }
    const waiting = await waitingWith(database, message);
    const toSend = waiting.filter((one, i) => !isToldAnew(one, waiting.slice(i + 1)));
    for (const one of waiting)
      if (!toSend.includes(one))
        await addAttempt(
          database,
          one.id,
          false,
          "Not sent: what it says has changed, and a newer message tells it.",
          now,
          "replaced",
        );
    const own = toSend.findIndex(({ id }) => id === message.id);
    // Where a newer one takes its place, that one is sent now: its own job may wait long for its turn.
    for (const one of own < 0 ? toSend : toSend.slice(0, own + 1))
      await this.#try(recipient, one, one.id === message.id && attempt >= mostAttempts);
  }

  async #try(recipient: StoredRecipient, message: StoredMessage, isLast: boolean): Promise<void> {
    const { database, log } = this.#parts;
    const now = Date.now();
    const incidents = await this.#incidents(message.incidentIds);
    const outcome: Outcome =
      incidents.length === 0
        ? { worked: true, answer: "Its incidents are not kept any more: nothing was sent." }
        : await this.send(recipient, message, incidents);
    log.info(
      {
        recipient: recipient.name,
        message: message.id,
        kind: message.kind,
        worked: outcome.worked,
        answer: outcome.answer,
      },
      "a message was tried",
    );
    await addAttempt(
      database,
      message.id,
      outcome.worked,
      outcome.answer,
      now,
      outcome.worked ? "sent" : isLast || outcome.isFinal ? "given up" : "waiting",
    );
    await noteReached(database, recipient.id, outcome.worked && !outcome.isPart ? null : outcome.answer, now);
    if (!outcome.worked && !outcome.isFinal) throw new Error(`${recipient.name} was not reached: ${outcome.answer}`);
  }

  /** Sends at once, and tells the other side's answer. */
  async send(
    recipient: StoredRecipient,
    message: Pick<StoredMessage, "id" | "incidentIds"> & { readonly kind: StoredMessage["kind"] | "test" },
    incidents: readonly TellIncident[],
  ): Promise<Outcome> {
    const picture = recipient.kind === "email" ? await this.#picture(incidents[0], recipient.when.zone) : null;
    const { subject, text, html, webhook, link } = await this.rendered(
      message.id,
      message.kind,
      incidents,
      recipient.texts,
      recipient.when.zone,
      picture !== null,
    );
    const isUrgent = incidents.some(({ incident }) => incident.severity === "urgent");
    const sendable = { id: message.id, subject, text, html, picture, webhook, link, isUrgent };
    return handOver(this.#parts, recipient, sendable);
  }

  /** A message as it would be, for a look at it. */
  async rendered(
    id: string,
    kind: StoredMessage["kind"] | "test",
    incidents: readonly TellIncident[],
    texts: RecipientTexts,
    zone: string,
    hasPicture: boolean,
  ): Promise<Rendered> {
    return render(
      id,
      kind,
      (await this.#withDifferences(incidents, zone)).map((one) => this.#called(one)),
      texts,
      { address: await this.#parts.address(), zone, nowMs: Date.now() },
      hasPicture,
    );
  }

  /** With what people call its machine, where they call it otherwise than it calls itself. */
  #called(one: TellIncident): TellIncident {
    const { friendlyName } = this.#parts.names.of(one.incident.tags["machine"] ?? "");
    return friendlyName === "" ? one : { ...one, called: friendlyName };
  }

  /** The first of several says what was different around it: before it was raised, and while it lasted. */
  async #withDifferences(incidents: readonly TellIncident[], zone: string): Promise<readonly TellIncident[]> {
    const { differed, log } = this.#parts;
    const [first, ...others] = incidents;
    if (!first || !differed) return incidents;
    const { raisedAtMs, clearedAtMs } = first.incident;
    const toMs = Math.min(clearedAtMs ?? Date.now(), raisedAtMs + longestSpanMs);
    const said = await differed(raisedAtMs - beforeMs, Math.max(toMs, raisedAtMs + leastSpanMs), zone).catch(
      (error) => {
        log.warn({ err: error }, "what was different could not be told in a message");
        return undefined;
      },
    );
    return said === undefined ? incidents : [{ ...first, differed: said }, ...others];
  }

  /** The newest incident, or one that is made up where there has been none: for tests and previews. */
  async sampleIncident(): Promise<TellIncident> {
    const id = await newestIncident(this.#parts.database);
    const newest = id === undefined ? undefined : await incidentOf(this.#parts.database, id);
    return newest ?? { incident: madeUp(Date.now()), document: null };
  }

  async #incidents(ids: readonly number[]): Promise<readonly TellIncident[]> {
    const found = await Promise.all(ids.map((id) => incidentOf(this.#parts.database, id)));
    return found.filter((one) => one !== undefined);
  }

  /** A mail without its picture is better than none. */
  async #picture(told: TellIncident | undefined, zone: string): Promise<Buffer | null> {
    if (!told?.document) return null;
    const { incident, document } = told;
    try {
      const now = Date.now();
      const window = incidentWindow(incident, document.marginSeconds, now);
      const answer = await answerReading(
        this.#parts.store,
        { ...document.reading, window, points: picturePoints },
        undefined,
        this.#parts.names,
      );
      const lines = ownLineFirst(answer, incident).slice(0, mostLines);
      if (lines.length === 0) return null;
      const { incidentPicture } = await import("./incident-picture.ts"); // what draws is large, and seldom needed
      return incidentPicture(incident, document, answer, lines, { nowMs: now, zone });
    } catch (error) {
      this.#parts.log.warn({ err: error }, "a mail's picture could not be drawn");
      return null;
    }
  }
}

/** Whether newer messages speak of all of its incidents. */
function isToldAnew({ incidentIds }: StoredMessage, newer: readonly StoredMessage[]): boolean {
  return incidentIds.every((id) => newer.some((one) => one.incidentIds.includes(id)));
}

function ownLineFirst({ lines }: ReadingAnswer, { tags }: IncidentView): readonly Line[] {
  const isOwn = (line: Line) => Object.entries(tags).every(([tag, value]) => line.tags[tag] === value);
  const own = lines.filter(isOwn);
  return own.length > 0 ? own : lines;
}

const madeUp = (nowMs: number): IncidentView => ({
  id: 0,
  ruleId: 0,
  ruleName: "processor busy",
  severity: "notice",
  tags: { machine: "playout" },
  compare: "above",
  watch: "value",
  limit: 75,
  unit: "%",
  raisedAtMs: nowMs - 300_000,
  clearedAtMs: null,
  value: 82.4,
  furthest: 91,
  clearedValue: null,
  ended: null,
  acknowledgedBy: null,
  acknowledgedAtMs: null,
  snoozedUntilMs: null,
  quietId: null,
  closedBy: null,
});
