import { type Decision, decide, type TellableIncident, type Told, toldAfter } from "../../core/messages/decide.ts";
import type { Tags } from "../../core/counters/counter.ts";
import type { IncidentView } from "../../core/rules/rule.ts";
import { type Database, inTransaction } from "../db/pool.ts";
import type { QuietDesk } from "../quiet/quiet-desk.ts";
import { addEntry } from "../rules/incident-entry-rows.ts";
import { listTellable, writeQuietOf } from "../rules/incident-rows.ts";
import type { MachineNames } from "../machines/machine-names.ts";
import { insertMessage, listTold, noteEscalated, noteRecovered } from "./message-rows.ts";
import { listRecipients, type StoredRecipient } from "./recipient-rows.ts";

const words: Readonly<Record<Decision["kind"], string>> = {
  raised: "told",
  worsened: "told that it is urgent",
  repeated: "told again",
  escalated: "told, as nobody had acknowledged it",
  cleared: "told that it is over",
};

/** Decides who is to be told of what, and has it delivered. */
export class Dispatcher {
  readonly #database: Database;
  readonly #quiet: QuietDesk;
  readonly #names: MachineNames | undefined;
  readonly #isPaused: (machine: string) => boolean;
  #recipients: readonly StoredRecipient[] | undefined;
  #running: Promise<void> = Promise.resolve();

  /** `isPaused` says whether all sources of a machine are paused: nobody is told of it then. */
  constructor(
    database: Database,
    quiet: QuietDesk,
    names?: MachineNames,
    isPaused = (_machine: string): boolean => false,
  ) {
    this.#database = database;
    this.#quiet = quiet;
    this.#names = names;
    this.#isPaused = isPaused;
  }

  async recipients(): Promise<readonly StoredRecipient[]> {
    this.#recipients ??= await listRecipients(this.#database);
    return this.#recipients;
  }

  /** As they stand in the database: who is not reached is written there by deliveries. */
  listed(): Promise<readonly StoredRecipient[]> {
    return listRecipients(this.#database);
  }

  /** Somebody was added, changed or removed. */
  forget(): void {
    this.#recipients = undefined;
  }

  /**
   * Whether nobody is to be told of an incident now, and the quiet time that hides it; of one that has ended what did
   * to its end.
   */
  async hidden(
    incident: IncidentView,
    nowMs: number,
  ): Promise<{ readonly quietId: number | null; readonly isQuiet: boolean }> {
    const quietId =
      incident.clearedAtMs === null
        ? ((await this.#quiet.at(this.#tagsOf(incident), nowMs))?.quiet.id ?? null)
        : incident.quietId;
    return {
      quietId,
      isQuiet:
        quietId !== null || this.#isPaused(incident.tags["machine"] ?? "") || (incident.snoozedUntilMs ?? 0) > nowMs,
    };
  }

  /** Looks at what is open and what has ended; one at a time. */
  run(nowMs: number): Promise<void> {
    this.#running = this.#running.catch(() => {}).then(() => this.#run(nowMs));
    return this.#running;
  }

  async #run(nowMs: number): Promise<void> {
    const incidents = await listTellable(this.#database);
    if (incidents.length === 0) return;
    const tellable: TellableIncident[] = [];
    for (const incident of incidents) {
      const tags = this.#tagsOf(incident);
      const { quietId, isQuiet } = await this.hidden(incident, nowMs);
      // What hid an incident to its end stays written at it.
      if (incident.clearedAtMs === null && quietId !== incident.quietId)
        await writeQuietOf(this.#database, incident.id, quietId);
      tellable.push({
        id: incident.id,
        severity: incident.severity,
        tags,
        raisedAtMs: Math.min(incident.raisedAtMs, nowMs), // the clock may have been set back since
        clearedAtMs: incident.clearedAtMs,
        isAcknowledged: incident.acknowledgedAtMs !== null,
        isQuiet,
      });
    }
    const recipients = await this.recipients();
    if (recipients.length === 0) return;
    const told = await listTold(
      this.#database,
      incidents.map(({ id }) => id),
    );
    const decisions = decide(recipients, tellable, told, nowMs);
    for (const decision of decisions) await this.#tell(decision, recipients, tellable, told, nowMs);
    await this.#letGo(recipients, tellable, told);
  }

  async #tell(
    decision: Decision,
    recipients: readonly StoredRecipient[],
    incidents: readonly TellableIncident[],
    told: readonly Told[],
    nowMs: number,
  ): Promise<void> {
    const after = decision.incidentIds.map((id) =>
      toldAfter(
        decision,
        incidents.find((one) => one.id === id) as TellableIncident,
        told.find((one) => one.incidentId === id && one.recipientId === decision.recipientId),
        nowMs,
      ),
    );
    const name = recipients.find(({ id }) => id === decision.recipientId)?.name ?? "";
    await inTransaction(this.#database, async (connection) => {
      await insertMessage(connection, decision, after, nowMs);
      if (decision.kind === "escalated")
        for (const { id, escalation } of recipients)
          if (escalation?.to === decision.recipientId) await noteEscalated(connection, id, decision.incidentIds);
      for (const id of decision.incidentIds)
        await addEntry(connection, id, "told", nowMs, "", `${name}: ${words[decision.kind]}`);
    });
  }

  /** What has ended and will not be told is not looked at again. */
  async #letGo(
    recipients: readonly StoredRecipient[],
    incidents: readonly TellableIncident[],
    told: readonly Told[],
  ): Promise<void> {
    const quiet = told.filter(
      (one) =>
        !one.hasRecovered &&
        incidents.some(({ id, clearedAtMs }) => id === one.incidentId && clearedAtMs !== null) &&
        !recipients.some(({ id, on, onRecovery }) => id === one.recipientId && on && onRecovery),
    );
    for (const { incidentId, recipientId } of quiet) await noteRecovered(this.#database, incidentId, recipientId);
  }

  #tagsOf({ tags }: IncidentView): Tags {
    return this.#names?.tagsWith(tags) ?? tags;
  }
}
