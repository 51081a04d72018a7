import type { Logger } from "pino";
import type { AlertingSettings, AlertingView } from "../../core/api/alerting.ts";
import type { ServerClock } from "../clock/server-clock.ts";
import type { Database } from "../db/pool.ts";
import { everyMultiple, type Schedule } from "../gather/schedule.ts";
import type { LiveHub } from "../live/live-hub.ts";
import type { MachineNames } from "../machines/machine-names.ts";
import { Deliverer } from "../messages/deliverer.ts";
import { Dispatcher } from "../messages/dispatcher.ts";
import { sealOldRecipients } from "../messages/recipient-rows.ts";
import { QuietDesk } from "../quiet/quiet-desk.ts";
import { RuleChecker, type RuleNews } from "../rules/rule-checker.ts";
import type { PushKeys } from "../messages/push-keys.ts";
import type { SecretBox } from "../sources/secret-box.ts";
import type { Sources } from "../sources/sources.ts";
import type { Store } from "../store/store.ts";
import { readAlertingSettings, writeAlertingSettings } from "./alerting-settings-rows.ts";
import { Heartbeat } from "./heartbeat.ts";
import { SilenceWatch } from "./silence-watch.ts";

/** Rules are looked at so often; each is checked when it is due. */
const tickEveryMs = 1000;
/** Gatherings stand at whole multiples of their interval; rules are checked a little after, when those are stored. */
const tickOffsetMs = 600;
/** Checks that are later than this are too late for the heartbeat. */
const mostLagMs = 60_000;
/** What waits for its time (a group, a repeat, the end of a quiet time) is looked at every so many ticks, news at once. */
const dispatchEvery = 5;

export interface AlertingParts {
  readonly database: Database;
  readonly store: Store;
  readonly sources: Sources;
  readonly names: MachineNames;
  readonly live: LiveHub;
  readonly clock: ServerClock;
  readonly box: SecretBox;
  readonly pushKeys: PushKeys;
  readonly log: Logger;
  /** By which the server is reached, where no person has said another. */
  readonly ownAddress: () => string;
  /** Says in a sentence what was most different in a span. */
  readonly differed?: (fromMs: number, toMs: number, zone: string) => Promise<string | undefined>;
}

/** What watches and tells: rules, silent sources, who is told and when not, and the heartbeat by which it is watched itself. It ticks. */
export class Alerting {
  readonly checker: RuleChecker;
  readonly dispatcher: Dispatcher;
  readonly deliverer: Deliverer;
  readonly quiet: QuietDesk;
  readonly #parts: AlertingParts;
  readonly #silence: SilenceWatch;
  readonly #heartbeat: Heartbeat;
  readonly #news: AlertingNews;
  #settings: AlertingSettings;
  #ticks = 0;
  #ticking: Schedule | undefined;

  private constructor(parts: AlertingParts, opened: Opened) {
    this.#parts = parts;
    this.checker = opened.checker;
    this.dispatcher = opened.dispatcher;
    this.quiet = opened.quiet;
    this.#silence = opened.silence;
    this.#settings = opened.settings;
    this.#news = opened.news;
    this.deliverer = new Deliverer({ ...parts, address: async () => this.address });
    this.#heartbeat = new Heartbeat(
      async () => this.#settings.heartbeatUrl,
      () => this.stats(Date.now()).lagMs < mostLagMs,
    );
  }

  static async open(parts: AlertingParts): Promise<Alerting> {
    const { database, store, sources, names, live, box, log } = parts;
    await sealOldRecipients(database, box).catch((error) =>
      log.warn({ err: error }, "what recipients kept in clear could not be sealed"),
    );
    const quiet = new QuietDesk(database);
    const dispatcher = new Dispatcher(database, quiet, names, (machine) => sources.isPaused(machine));
    const news = new AlertingNews(dispatcher, live);
    const checker = await RuleChecker.open(database, store, news.tell, names, {
      isGone: (machine) => sources.isGone(machine),
      isHeard: (machine, sinceMs) => sources.isHeard(machine, sinceMs),
    });
    const silence = await SilenceWatch.open(database, sources, news.tell);
    const settings = await readAlertingSettings(database, box);
    return new Alerting(parts, { checker, dispatcher, quiet, silence, settings, news });
  }

  /** Begins to tick. */
  start(): void {
    const failed = (error: unknown) => this.#parts.log.error({ err: error }, "checking rules failed");
    this.#ticking = everyMultiple(tickEveryMs, () => this.tick(), failed, { offsetMs: tickOffsetMs });
  }

  /** Checks what is due, or `all`, and has told what is to be told. */
  async tick(all = false): Promise<void> {
    const { clock, sources } = this.#parts;
    clock.look();
    void clock.keep().catch(() => {}); // while the database is away it is kept a little later
    if (await sources.endPauses(Date.now())) this.changed();
    await this.checker.check(Date.now(), all);
    await this.#silence.check(Date.now());
    if (this.#news.take() || this.#ticks++ % dispatchEvery === 0) await this.dispatcher.run(Date.now());
    void this.#heartbeat.beat(Date.now());
  }

  /** Has the rules checked before their next turn. */
  readonly checkSoon = (): void => {
    void this.tick(true).catch((error) => this.#parts.log.error({ err: error }, "checking rules failed"));
  };

  /** Has the rules read anew, and checked. */
  readonly checkRules = (): void => {
    this.checker.forget();
    this.checkSoon();
  };

  /** Has alerting looked at anew, here and on every open page. */
  readonly changed = (): void => {
    this.#news.note();
    this.#parts.live.publish({ kind: "alerting" });
  };

  readonly changeSettings = async (settings: AlertingSettings): Promise<void> => {
    await writeAlertingSettings(this.#parts.database, settings, this.#parts.box);
    this.#settings = settings;
    this.#heartbeat.soon();
  };

  stats(nowMs: number): ReturnType<RuleChecker["stats"]> {
    return this.checker.stats(nowMs);
  }

  /** Recipients that messages do not reach. */
  async notReached(): Promise<AlertingView["failingRecipients"]> {
    return (await this.dispatcher.listed()).flatMap(({ id, name, failingSinceMs, failure }) =>
      failingSinceMs === null ? [] : [{ id, name, sinceMs: failingSinceMs, failure: failure ?? "" }],
    );
  }

  readonly view = async (): Promise<AlertingView> => {
    const now = Date.now();
    const [all, failingRecipients, beat] = await Promise.all([
      this.quiet.allQuiet(now),
      this.notReached(),
      this.#heartbeat.view(),
    ]);
    const { lagMs, lines, failing } = this.stats(now);
    return {
      allQuiet: all
        ? { id: all.quiet.id, title: all.quiet.title, by: all.quiet.by, why: all.quiet.why, untilMs: all.toMs }
        : null,
      failingRecipients,
      failingRules: failing,
      lagMs,
      checkedLines: lines,
      heartbeat: beat,
      address: this.address,
    };
  };

  /** The clock was set back. */
  rebase(nowMs: number): void {
    this.checker.rebase(nowMs);
  }

  async close(): Promise<void> {
    await this.#ticking?.stop();
  }

  /** By which links in messages begin. */
  get address(): string {
    return this.#settings.address || this.#parts.ownAddress();
  }
}

interface Opened {
  readonly checker: RuleChecker;
  readonly dispatcher: Dispatcher;
  readonly quiet: QuietDesk;
  readonly silence: SilenceWatch;
  readonly settings: AlertingSettings;
  readonly news: AlertingNews;
}

/** Whether there is something new to tell; pages that are open hear of it at once. */
class AlertingNews {
  readonly #dispatcher: Dispatcher;
  readonly #live: LiveHub;
  #isNew = true;

  constructor(dispatcher: Dispatcher, live: LiveHub) {
    this.#dispatcher = dispatcher;
    this.#live = live;
  }

  readonly tell = (news: RuleNews): void => {
    this.#isNew = true;
    const hidden = this.#dispatcher.hidden(news.incident, Date.now()).then(
      ({ isQuiet }) => isQuiet,
      () => false, // rather told than lost
    );
    void hidden.then((isQuiet) => this.#live.publish({ ...news, isQuiet }));
  };

  note(): void {
    this.#isNew = true;
  }

  /** Whether there was news since the last time. */
  take(): boolean {
    const was = this.#isNew;
    this.#isNew = false;
    return was;
  }
}
