import { type NoteEvents, type Sent, SourceGathering } from "./source-gathering.ts";
import { destinationOf, OtherDestinationError, type Place } from "./same-destination.ts";
import { secondsEach } from "../costs/seconds-each.ts";
import type { Logger } from "pino";
import type { IntakeLimits } from "../../core/sources/intake-limits.ts";
import type { SourceView, SpellView } from "../../core/api/sources.ts";
import type { Device } from "../../core/sources/kinds/device-kinds.ts";
import type { SourceKind } from "../../core/sources/kinds/source-kinds.ts";
import type { Credentials, Pause, Source, SourceSettings, Trust } from "../../core/sources/source.ts";
import type { Database } from "../db/pool.ts";
import type { DeviceGatherer, Gathered } from "../gather/device-gatherer.ts";
import { openDevice } from "../gather/open-device.ts";
import { PageAsker, type PulledPage } from "../gather/pull/pull-page.ts";
import type { Store } from "../store/store.ts";
import { Asking } from "./asking.ts";
import type { Haste } from "./haste.ts";
import { readLimits, defaultLimits, writeLimits } from "./intake-limit-rows.ts";
import { isLoopback } from "../http/loopback.ts";
import type { SecretBox } from "./secret-box.ts";
import {
  hadSourceOfKind,
  insertSource,
  listFormerMachines,
  listSources,
  markRemoved,
  purgeRemoved,
  readSecret,
  updateSource,
  wasSourceRemoved,
  writePause,
  writeSecret,
  writeSenderVersion,
} from "./source-rows.ts";
import { SourceRun } from "./source-run.ts";
import { forgetSpells, lastHeard } from "./spell-rows.ts";
import { SpeedWishes } from "./speed-wishes.ts";
import { Spells } from "./spells.ts";

const flushSpellsMs = 30_000;
const dayMs = 86_400_000;
const spellsKeptMs = 400 * dayMs;

/** What sources are told from outside, and tell. */
export interface SourcesOptions {
  /** Hears what time it is by the clocks of other machines. */
  readonly told?: (ms: number) => void;
  /** Keeps what devices say has happened. */
  readonly noteEvents?: NoteEvents;
  /** Sources that another server asks just now. */
  readonly lent?: readonly number[];
}

/**
 * Every source: its settings in the database, how it runs here. The only place where sources are made, changed and
 * removed.
 */
export class Sources {
  readonly #database: Database;
  readonly #store: Store;
  readonly #box: SecretBox;
  readonly #log: Logger;
  readonly #spells: Spells;
  readonly #options: SourcesOptions;
  readonly #runs = new Map<number, SourceRun>();
  readonly #pullers = new Map<number, Asking>();
  /** Those that another server asks. */
  readonly #lent: Set<number>;
  /** Machines of which a source was removed lately, or reports under another name now. */
  readonly #former = new Set<string>();
  #heard: ReadonlyMap<number, number> = new Map();
  /** What is wanted more often than usual, by source. */
  #hastes: ReadonlyMap<number, Haste> = new Map();
  #limits: IntakeLimits = defaultLimits;
  #flushing: NodeJS.Timeout | undefined;
  #closed = false;
  /** What gathers the machine that the server runs on, once it is known. */
  #ownGatherer: DeviceGatherer | undefined;
  readonly #changed = new Set<() => void>();
  /** Collectors that are asked how fast their machine is. */
  readonly speedWishes: SpeedWishes;
  readonly #gathering: SourceGathering;

  private constructor(database: Database, store: Store, box: SecretBox, log: Logger, options: SourcesOptions) {
    this.#options = options;
    this.#lent = new Set(options.lent);
    this.#database = database;
    this.#store = store;
    this.speedWishes = new SpeedWishes(store);
    this.#box = box;
    this.#log = log;
    this.#spells = new Spells(database);
    this.#gathering = new SourceGathering({
      log,
      noteEvents: options.noteEvents,
      limits: () => this.#limits,
      ownGatherer: () => this.#ownGatherer,
      isRunning: (run) => this.#runs.get(run.source.id) === run,
    });
  }

  static async open(
    database: Database,
    store: Store,
    box: SecretBox,
    log: Logger,
    options: SourcesOptions = {},
  ): Promise<Sources> {
    const sources = new Sources(database, store, box, log, options);
    sources.#limits = await readLimits(database);
    sources.#heard = await lastHeard(database);
    await purgeRemoved(database);
    for (const machine of await listFormerMachines(database)) sources.#former.add(machine);
    await forgetSpells(database, Date.now() - spellsKeptMs);
    for (const source of await listSources(database)) await sources.#run(source);
    sources.#flushing = setInterval(() => void sources.#spells.flush(), flushSpellsMs);
    return sources;
  }

  get limits(): IntakeLimits {
    return this.#limits;
  }

  async setLimits(limits: IntakeLimits): Promise<void> {
    await writeLimits(this.#database, limits);
    this.#limits = limits;
    // readers hold to limits as they were made with
    for (const run of [...this.#runs.values()]) await this.#run(run.source);
  }

  /** Calls `listener` when what is asked, or how, has changed; the answer takes it off again. */
  onChange(listener: () => void): () => void {
    this.#changed.add(listener);
    return () => this.#changed.delete(listener);
  }

  all(): readonly SourceRun[] {
    return [...this.#runs.values()];
  }

  find(id: number): SourceRun | undefined {
    return this.#runs.get(id);
  }

  /** What senders say about a counter; empty where nobody says anything. */
  helpOf(counter: string): string {
    for (const { help } of this.all()) {
      const text = help.get(counter);
      if (text !== undefined) return text;
    }
    return "";
  }

  /** How a source stood over `[fromMs, toMs)`. */
  spells(id: number, fromMs: number, toMs: number): Promise<readonly SpellView[]> {
    return this.#spells.list(id, fromMs, toMs);
  }

  views(nowMs: number): readonly SourceView[] {
    return this.all().map((run) => run.view(nowMs));
  }

  /** Whether there is a source of this kind, or was one that a person has removed lately. */
  async hadKind(kind: SourceKind): Promise<boolean> {
    return await hadSourceOfKind(this.#database, kind);
  }

  /** Whether somebody has removed a source of this name lately. */
  async wasRemoved(name: string): Promise<boolean> {
    return await wasSourceRemoved(this.#database, name);
  }

  /** Gathers the machine that the server runs on, by a source that is made where there is none. */
  async gatherThisMachine(machine: string, intervalMs: number, gatherer: DeviceGatherer): Promise<SourceRun> {
    this.#ownGatherer = gatherer;
    const known = this.all().find(({ source }) => source.kind === "this-machine");
    if (known && known.source.machine === machine && known.source.intervalMs === intervalMs)
      return await this.#run(known.source);
    if (known) return (await this.change(known.source.id, { ...known.source, machine, intervalMs })) as SourceRun;
    const name = this.all().some(({ source }) => source.name.toLowerCase() === machine.toLowerCase())
      ? `${machine} (this machine)`
      : machine;
    return await this.create("this-machine", {
      name,
      machine,
      intervalMs,
      tellsSilence: true,
      address: null,
      trust: { kind: "system" },
      device: null,
      tags: {},
      take: [],
      csv: null,
    });
  }

  async create(
    kind: SourceKind,
    settings: SourceSettings,
    credentials: Credentials = { kind: "none" },
  ): Promise<SourceRun> {
    const source = await insertSource(this.#database, kind, settings);
    if (credentials.kind !== "none") await this.#seal(source.id, credentials);
    return await this.#run({ ...source, credentials: credentials.kind });
  }

  /** Changes a source; without `credentials` it keeps those it has. Undefined where there is no such source. */
  async change(id: number, settings: SourceSettings, credentials?: Credentials): Promise<SourceRun | undefined> {
    if (!credentials) this.#assertSameDestination(settings, id);
    if (credentials) await this.#seal(id, credentials);
    const source = await updateSource(this.#database, id, settings);
    if (source) this.#noteFormer(id);
    return source && (await this.#run(source));
  }

  /** Pauses a source, or lets it go on. Undefined where there is no such source. */
  async pause(id: number, pause: Pause | null): Promise<SourceRun | undefined> {
    const source = await writePause(this.#database, id, pause);
    return source && (await this.#run(source));
  }

  /** Lets those go on whose pause is over. The answer says whether there were any. */
  async endPauses(nowMs: number): Promise<boolean> {
    const over = this.all().filter(({ source: { pause } }) => pause && pause.untilMs <= nowMs);
    for (const { source } of over) await this.pause(source.id, null);
    return over.length > 0;
  }

  /** Whether a machine has sources, and all of them are paused. */
  isPaused(machine: string): boolean {
    const its = this.all().filter(({ source }) => source.machine === machine);
    return its.length > 0 && its.every(({ source }) => source.pause !== null);
  }

  /** Whether a machine was removed, or is called otherwise now: it had sources, and has none any more. */
  isGone(machine: string): boolean {
    return this.#former.has(machine) && !this.all().some(({ source }) => source.machine === machine);
  }

  /** Whether anything that reports about a machine has been heard after a moment. */
  isHeard(machine: string, sinceMs: number): boolean {
    return this.all().some((run) => run.source.machine === machine && (run.heardMs ?? 0) > sinceMs);
  }

  /** Ends a source. Its samples stay, and it can be brought back for a week. */
  async remove(id: number): Promise<boolean> {
    if (!(await markRemoved(this.#database, id, true))) return false;
    await this.#stop(id);
    this.#noteFormer(id);
    this.#runs.delete(id);
    this.#tellChanged();
    return true;
  }

  async bringBack(id: number): Promise<SourceRun | undefined> {
    if (!(await markRemoved(this.#database, id, false))) return undefined;
    const source = (await listSources(this.#database)).find((one) => one.id === id);
    return source && (await this.#run(source));
  }

  /** Asks an address once, as a source with these settings would. Throws PullError. */
  async ask(
    settings: Pick<SourceSettings, "address" | "trust">,
    credentials: Credentials | undefined,
    id?: number,
  ): Promise<PulledPage> {
    if (!settings.address) throw new Error("only what is pulled can be asked");
    const asker = new PageAsker(
      settings.address,
      settings.trust,
      await this.credentialsFor(credentials, id, { ...settings, device: null }),
    );
    try {
      return await asker.ask(this.#limits.bodyBytes);
    } finally {
      await asker.close();
    }
  }

  /** Asks a device once, as a source with these settings would. Throws PullError. */
  async askDevice(device: Device, trust: Trust, credentials: Credentials | undefined, id?: number): Promise<Gathered> {
    const gatherer = openDevice(
      device,
      trust,
      await this.credentialsFor(credentials, id, { address: null, device, trust }),
    );
    try {
      return await gatherer.gather(Date.now());
    } finally {
      await gatherer.close();
    }
  }

  /**
   * Those given, else those that a source has, where they are for the place for which they were entered. Throws
   * OtherDestinationError.
   */
  async credentialsFor(
    credentials: Credentials | undefined,
    id: number | undefined,
    place: Place,
  ): Promise<Credentials> {
    if (credentials || id === undefined) return credentials ?? { kind: "none" };
    this.#assertSameDestination(place, id);
    return await this.credentialsOf(id);
  }

  #assertSameDestination(place: Place, id: number): void {
    const source = this.#runs.get(id)?.source;
    if (source && source.credentials !== "none" && destinationOf(place) !== destinationOf(source))
      throw new OtherDestinationError();
  }

  /** Notes of which version what sends for a source says it is; while the database is away it will say so again. */
  noteSenderVersion(run: SourceRun, version: string): void {
    if (run.senderVersion === version) return;
    run.senderVersion = version;
    writeSenderVersion(this.#database, run.source.id, version).catch((error) =>
      this.#log.warn({ err: error, source: run.source.name }, "which version a sender is of was not kept"),
    );
  }

  /** Whether what is taken now is stored soon: the database answers. */
  get isStoring(): boolean {
    return this.#store.health.failure === undefined;
  }

  /** Takes what was gathered of a source that is asked from elsewhere. Resolves when it is durable. */
  async takeSent(run: SourceRun, sent: Sent): Promise<void> {
    await this.#gathering.takeSent(run, sent, this.#hastes.get(run.source.id));
  }

  /** Notes what is expected of series that other servers store, where that is not known here yet: of all in one go. */
  noteExpected(): void {
    const lacking = this.all().filter((run) => run.lacksExpected);
    if (lacking.length === 0) return;
    const expected = new Map(lacking.map((run) => [run.source.id, run.expected]));
    for (const { id, sourceId } of this.#store.series.all()) {
      const its = sourceId === undefined ? undefined : expected.get(sourceId);
      if (its) this.#store.expect(id, its);
    }
    for (const run of lacking) run.expectingAll();
  }

  /** The clock was set. */
  rebase(nowMs: number): void {
    for (const run of this.all()) run.rebase(nowMs);
  }

  async close(): Promise<void> {
    this.#closed = true;
    this.#gathering.beginClose();
    clearInterval(this.#flushing);
    await Promise.all([...this.#pullers.keys()].map((id) => this.#stop(id)));
    await this.#ownGatherer?.close();
    await this.#gathering.lastWrites();
    await this.#spells.flush();
  }

  /** While a source still reports about the machine, its having been noted means nothing. */
  #noteFormer(id: number): void {
    const machine = this.#runs.get(id)?.source.machine;
    if (machine !== undefined) this.#former.add(machine);
  }

  async #seal(id: number, credentials: Credentials): Promise<void> {
    await writeSecret(
      this.#database,
      id,
      credentials.kind,
      credentials.kind === "none" ? null : this.#box.seal(JSON.stringify(credentials)),
    );
  }

  /** The secret of a source, opened. Throws where it was sealed with another key. */
  async credentialsOf(id: number): Promise<Credentials> {
    const sealed = await readSecret(this.#database, id);
    return sealed ? (JSON.parse(this.#box.unseal(sealed)) as Credentials) : { kind: "none" };
  }

  async #run(source: Source): Promise<SourceRun> {
    await this.#stop(source.id);
    const before = this.#runs.get(source.id);
    const run = new SourceRun(
      source,
      {
        store: this.#store,
        spells: this.#spells,
        limits: () => this.#limits,
        nowMs: Date.now(),
        heardMs: this.#heard.get(source.id),
        told: this.#options.told ?? (() => {}),
        isAlive: (other) => this.#runs.has(other),
      },
      before,
    );
    if (source.address) run.isElsewhere = !isLoopback(source.address.host);
    if (source.askedFrom) run.isElsewhere = true;
    this.#runs.set(source.id, run);
    await this.#askOn(run);
    this.#tellChanged();
    return run;
  }

  async #askOn(run: SourceRun): Promise<void> {
    const { source } = run;
    if (this.#isAsked(source) && !source.pause && !this.#lent.has(source.id) && !this.#closed)
      await this.#startAsking(run);
  }

  /** Sources that another server asks. */
  get lent(): readonly number[] {
    return [...this.#lent];
  }

  /** Asks a source no more from here: another server does. Resolves when it is not being asked. */
  async lend(id: number): Promise<void> {
    this.#lent.add(id);
    await this.#stop(id);
    const run = this.#runs.get(id);
    if (run) run.nextMs = undefined;
  }

  /** Asks a source from here again, as no other server does. */
  async takeBack(id: number): Promise<void> {
    if (!this.#lent.delete(id)) return;
    const run = this.#runs.get(id);
    if (run) await this.#askOn(run);
  }

  #tellChanged(): void {
    for (const listener of this.#changed) listener();
  }

  #isAsked({ address, device, kind, askedFrom }: Source): boolean {
    if (askedFrom) return false;
    return address !== null || device !== null || (kind === "this-machine" && this.#ownGatherer !== undefined);
  }

  async #stop(id: number): Promise<void> {
    const puller = this.#pullers.get(id);
    this.#pullers.delete(id);
    await puller?.stop();
  }

  async #startAsking(run: SourceRun): Promise<void> {
    const { source } = run;
    let credentials: Credentials;
    try {
      credentials = await this.credentialsOf(source.id);
    } catch (error) {
      run.failed({
        kind: "wrong credentials",
        words: "Its credentials cannot be read: they were sealed with another key.",
        remedy: "Enter them again.",
        atMs: Date.now(),
        certificate: null,
      });
      this.#log.warn({ err: error, source: source.name }, "a secret cannot be read");
      return;
    }
    // While its secret was read it may have been lent, changed or ended.
    if (this.#closed || this.#lent.has(source.id) || this.#runs.get(source.id) !== run) return;
    const { asker, ask } = this.#gathering.askerOf(run, credentials);
    const asking = new Asking(source, {
      asker,
      ask,
      failed: (error) => this.#log.error({ err: error, source: source.name }, "gathering a source failed"),
      planned: (nextMs) => (run.nextMs = nextMs),
    });
    this.#pullers.set(source.id, asking);
    asking.hasten(this.#hastes.get(source.id));
  }

  /** From now on these sources are gathered for what is wanted of them as often as that is wanted; all others as usual. */
  hasten(hastes: ReadonlyMap<number, Haste>): void {
    this.#hastes = hastes;
    for (const [id, asking] of this.#pullers) asking.hasten(hastes.get(id));
    this.#tellChanged();
  }

  /** What is wanted more often of a source than usual, for one that sends and must be told. */
  hasteOf(id: number): Haste | undefined {
    return this.#hastes.get(id);
  }

  /** Processor seconds that it takes here to ask a source once, of late; undefined for what is not asked. */
  secondsOf(id: number): number | undefined {
    return this.#pullers.get(id)?.seconds.usual;
  }

  /** Processor seconds that it took here to ask a source for just these, when that was last done in haste. */
  hastySecondsOf(id: number, counters: ReadonlySet<string>): number | undefined {
    return this.#pullers.get(id)?.secondsFor(counters);
  }

  /** The share of a core that asking a source more often than usual takes here; undefined where it is not. */
  hastyShareOf(id: number): number | undefined {
    return this.#pullers.get(id)?.hastyShare;
  }

  /** Processor seconds that it takes to ask this machine for these counters once: the mean of some times, asked now. */
  async trySecondsOfOwn(counters: ReadonlySet<string>, times: number): Promise<number | undefined> {
    const gatherer = this.#ownGatherer;
    if (!gatherer) return undefined;
    const some = await secondsEach(() => gatherer.gather(Date.now(), counters), times);
    const own = this.all().find(({ source }) => source.kind === "this-machine");
    const usual = own && this.secondsOf(own.source.id);
    if (usual === undefined) return some;
    return (usual * some) / (await secondsEach(() => gatherer.gather(Date.now()), times));
  }
}
