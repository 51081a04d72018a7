import type { ReadingAnswer } from "../../core/reading/document.ts";
import equal from "fast-deep-equal";
import type { UsualAt } from "../../core/rules/gauges.ts";
import { gaugeUnit } from "../../core/rules/incident-text.ts";
import {
  type Effect,
  type IncidentView,
  isOverWhenGone,
  type Mode,
  type RuleDocument,
  type Severity,
} from "../../core/rules/rule.ts";
import { checkEveryMs } from "../../core/rules/run-line.ts";
import { openSeverity, shownMode } from "../../core/rules/step-line.ts";
import { type Connection, type Database, inTransaction } from "../db/pool.ts";
import type { MachineNames } from "../machines/machine-names.ts";
import type { Store } from "../store/store.ts";
import {
  changeSeverity,
  closeFailure,
  closeIncident,
  closeRule,
  deleteRuleLine,
  leaveIncident,
  listFailing,
  listRuleLines,
  noteFurthest,
  openFailure,
  openIncident,
  upsertRuleLines,
} from "./incident-rows.ts";
import { HeldLine, type Stepped } from "./held-line.ts";
import { type GaugedLine, readGauges, readUsual, type RuleGrid, ruleGrid } from "./read-gauges.ts";
import { deleteRule, listRules, type StoredRule, switchRule, updateRule } from "./rule-rows.ts";

/** Rules that say nothing are checked at least so often, where their data comes more slowly. */
const defaultEveryMs = 5000;
/** What is like what a rule reads is looked at anew after so long. */
const gridForMs = 30_000;
/** After a pause, so many steps are caught up with; what lies before has no say any more. */
const mostBehind = 3;
/** So many checks must fail in a row before that is an incident. */
const failuresTold = 3;
const lagWindowMs = 60_000;
/** What nobody has told of for so long, while its machine is heard, has ended. */
const goneAfterMs = 60_000;

export type RuleNews = { readonly kind: "raised" | "worsened" | "eased" | "cleared"; readonly incident: IncidentView };

/** Where a rule stands as a whole: its worst line. */
export interface RuleState {
  readonly mode: Mode;
  readonly severity: Severity;
  readonly sinceMs: number;
  readonly value: number | null;
  readonly unit: string;
  readonly lines: number;
  readonly raised: number;
  /** Why the last check failed; undefined when it did not. */
  readonly failure?: string;
}

/** What is known of machines besides their values. */
export interface MachinesKnown {
  /** Whether a machine was removed; lines of such a one are forgotten once nothing answers for them. */
  readonly isGone: (machine: string) => boolean;
  /** Whether a machine has been heard since: then what it does not tell of is not there any more. */
  readonly isHeard: (machine: string, sinceMs: number) => boolean;
}

interface HeldRule {
  readonly lines: Map<string, HeldLine>;
  /** Storing failed: its lines must be read again before it is checked. */
  isStale: boolean;
  grid: { readonly of: RuleGrid; readonly atMs: number } | undefined;
  usual: { readonly told: number; readonly of: ReadonlyMap<string, UsualAt> } | undefined;
  dueMs: number;
  failures: number;
  failure: string | undefined;
}

/**
 * Checks rules against the newest values, keeps where every line stands in the database, and tells what is raised and
 * cleared.
 */
export class RuleChecker {
  readonly #database: Database;
  readonly #store: Store;
  readonly #tell: (news: RuleNews) => void;
  readonly #names: MachineNames | undefined;
  readonly #isGone: (machine: string) => boolean;
  readonly #isHeard: (machine: string, sinceMs: number) => boolean;
  readonly #held = new Map<number, HeldRule>();
  #rules: readonly StoredRule[] | undefined;
  #turn: Promise<unknown> = Promise.resolve();
  #lags: { readonly atMs: number; readonly lagMs: number }[] = [];

  private constructor(
    database: Database,
    store: Store,
    tell: (news: RuleNews) => void,
    names: MachineNames | undefined,
    { isGone, isHeard }: MachinesKnown,
  ) {
    this.#isHeard = isHeard;
    this.#names = names;
    this.#isGone = isGone;
    this.#database = database;
    this.#store = store;
    this.#tell = tell;
  }

  static async open(
    database: Database,
    store: Store,
    tell: (news: RuleNews) => void,
    names?: MachineNames,
    { isGone = () => false, isHeard = () => false }: Partial<MachinesKnown> = {},
  ): Promise<RuleChecker> {
    const checker = new RuleChecker(database, store, tell, names, { isGone, isHeard });
    for (const line of await listRuleLines(database))
      checker.#heldOf(line.ruleId).lines.set(line.line, HeldLine.stored(line));
    // What could not be checked before is told already, and is to be closed once it can be.
    for (const ruleId of await listFailing(database)) checker.#heldOf(ruleId).failures = failuresTold;
    return checker;
  }

  /**
   * Checks every rule that is on and due. A rule that fails does not keep the others from being checked. `all` checks
   * those that are not due as well.
   */
  check(nowMs: number, all = false): Promise<void> {
    return this.#inTurn(() => this.#checkAll(nowMs, all));
  }

  async rules(): Promise<readonly StoredRule[]> {
    this.#rules ??= await listRules(this.#database);
    return this.#rules;
  }

  /** How late checks were at the most within the last minute, and how many lines they look at. */
  stats(nowMs: number): { readonly lagMs: number; readonly lines: number; readonly failing: number } {
    const held = [...this.#held.values()];
    return {
      lagMs: this.#lags.reduce(
        (most, { atMs, lagMs }) => (nowMs - atMs <= lagWindowMs ? Math.max(most, lagMs) : most),
        0,
      ),
      lines: held.reduce((sum, { lines }) => sum + lines.size, 0),
      failing: held.filter(({ failures }) => failures >= failuresTold).length,
    };
  }

  stateOf(ruleId: number): RuleState | undefined {
    const held = this.#held.get(ruleId);
    if (!held) return undefined;
    const all = [...held.lines.values()]
      .filter(({ state }) => state.notice !== null || state.urgent !== null)
      .map((line) => ({ line, shown: shownMode(line.state), open: openSeverity(line.state) }));
    const rank = ({ shown, open }: (typeof all)[number]) =>
      (open === "urgent" ? 0 : open === "notice" ? 1 : 2) * 10 +
      ["raised", "easing", "blind", "building", "quiet"].indexOf(shown.mode);
    const worst = all.sort((a, b) => rank(a) - rank(b) || a.shown.sinceMs - b.shown.sinceMs)[0];
    const failure = held.failure === undefined ? {} : { failure: held.failure };
    if (!worst)
      return held.failure === undefined
        ? undefined
        : { mode: "blind", severity: "notice", sinceMs: 0, value: null, unit: "1", lines: 0, raised: 0, ...failure };
    return {
      ...worst.shown,
      value: worst.line.value,
      unit: worst.line.unit,
      lines: all.length,
      raised: all.filter(({ open }) => open !== null).length,
      ...failure,
    };
  }

  /** The clock was set back: nothing was checked, or began, after the present. */
  rebase(nowMs: number): void {
    this.#lags = [];
    for (const held of this.#held.values()) {
      Object.assign(held, { dueMs: 0, grid: undefined, usual: undefined });
      for (const line of held.lines.values()) line.rebase(nowMs);
    }
  }

  /** Has the rules read anew: one was made. */
  forget(): void {
    this.#rules = undefined;
  }

  /** Switches a rule; off closes its incidents. Undefined where there is no such rule. */
  switch(ruleId: number, on: boolean, nowMs: number): Promise<StoredRule | undefined> {
    return this.#inTurn(async () => {
      if (!on) await this.#close(ruleId, nowMs);
      this.#rules = undefined;
      return switchRule(this.#database, ruleId, on);
    });
  }

  /**
   * Changes a rule. Where it says the same of the same readings, its lines go on from where they stand and incidents
   * stay open; else what is open is closed, as it was raised by
   * other words, and every line begins anew: what is beyond the new limits is raised again by them.
   */
  change(ruleId: number, document: RuleDocument, by: string, nowMs: number): Promise<StoredRule | undefined> {
    return this.#inTurn(async () => {
      const before = (await this.rules()).find(({ id }) => id === ruleId);
      if (before && !saysTheSame(before, document)) await this.#close(ruleId, nowMs);
      this.#rules = undefined;
      const held = this.#held.get(ruleId);
      if (held) Object.assign(held, { grid: undefined, usual: undefined, dueMs: 0 });
      return updateRule(this.#database, ruleId, document, by);
    });
  }

  /** Removes a rule and closes its incidents, which stay in the history. */
  remove(ruleId: number, nowMs: number): Promise<boolean> {
    return this.#inTurn(async () => {
      await this.#close(ruleId, nowMs);
      this.#rules = undefined;
      return deleteRule(this.#database, ruleId);
    });
  }

  /** Closes one incident by hand. Its line is not raised again before the limit has been left. */
  closeOne(incidentId: number, by: string, nowMs: number): Promise<IncidentView | undefined> {
    return this.#inTurn(async () => {
      const closed = await inTransaction(this.#database, async (connection) => {
        await leaveIncident(connection, incidentId);
        return closeIncident(connection, incidentId, nowMs, { by });
      });
      for (const { lines } of this.#held.values())
        for (const line of lines.values()) if (line.incidentId === incidentId) line.keep(null);
      if (closed) this.#tell({ kind: "cleared", incident: closed });
      return closed;
    });
  }

  /**
   * One thing at a time: a check that runs while its rule is switched off would open an incident that nothing closes.
   */
  #inTurn<T>(work: () => Promise<T>): Promise<T> {
    const result = this.#turn.then(work);
    this.#turn = result.catch(() => {});
    return result;
  }

  async #close(ruleId: number, nowMs: number): Promise<void> {
    const closed = await inTransaction(this.#database, (connection) => closeRule(connection, ruleId, nowMs));
    this.#held.delete(ruleId);
    for (const incident of closed) this.#tell({ kind: "cleared", incident });
  }

  async #checkAll(nowMs: number, all: boolean): Promise<void> {
    this.#lags = this.#lags.filter(({ atMs }) => nowMs - atMs <= lagWindowMs);
    for (const rule of await this.rules()) {
      const held = this.#heldOf(rule.id);
      if (!rule.on || (!all && nowMs < held.dueMs)) continue;
      if (held.dueMs > 0 && nowMs >= held.dueMs) this.#lags.push({ atMs: nowMs, lagMs: nowMs - held.dueMs });
      try {
        await this.#checkRule(rule, held, nowMs);
        if (held.failures >= failuresTold) await this.#endFailure(rule, nowMs);
        held.failures = 0;
        held.failure = undefined;
      } catch (error) {
        held.failure = error instanceof Error ? error.message : String(error);
        held.dueMs = nowMs + defaultEveryMs;
        if (++held.failures === failuresTold) await this.#beginFailure(rule, nowMs);
      }
    }
  }

  /**
   * A rule that cannot be checked is an incident itself; while the database is away nothing can be written, and that is
   * told elsewhere.
   */
  async #beginFailure(rule: StoredRule, nowMs: number): Promise<void> {
    const incident = await openFailure(this.#database, rule, nowMs).catch(() => undefined);
    if (incident) this.#tell({ kind: "raised", incident });
  }

  async #endFailure(rule: StoredRule, nowMs: number): Promise<void> {
    const incident = await closeFailure(this.#database, rule.id, nowMs);
    if (incident) this.#tell({ kind: "cleared", incident });
  }

  async #checkRule(rule: StoredRule, held: HeldRule, nowMs: number): Promise<void> {
    if (!held.grid || nowMs - held.grid.atMs > gridForMs)
      held.grid = { of: ruleGrid(this.#store, this.#names, rule, nowMs), atMs: nowMs };
    const grid = held.grid.of;
    if (held.isStale) await this.#reread(rule.id, held);
    const everyMs =
      rule.everySeconds > 0 ? checkEveryMs(rule.everySeconds, grid.stepMs) : Math.min(grid.stepMs, defaultEveryMs);
    held.dueMs = (Math.floor(nowMs / everyMs) + 1) * everyMs;
    const behind = nowMs - (mostBehind + 1) * Math.max(grid.stepMs, rule.everySeconds > 0 ? everyMs : 0) - grid.waitsMs;
    const oldest =
      held.lines.size === 0
        ? behind
        : [...held.lines.values()].reduce((least, { checkedMs }) => Math.min(least, checkedMs), nowMs);
    const { firstMs, stepMs, lines } = await readGauges(
      this.#store,
      this.#names,
      rule,
      grid,
      { afterMs: Math.max(behind, oldest), untilMs: nowMs },
      { usualOfLines: (answer) => this.#usual(rule, held, answer, nowMs), nowMs },
    );
    const stride = rule.everySeconds > 0 ? checkEveryMs(rule.everySeconds, stepMs) : stepMs;
    const answered = new Set(lines.map(({ key }) => key));
    const changes: LineChange[] = [];
    for (const line of lines) {
      const known = held.lines.get(line.key) ?? new HeldLine(line.key, line.tags);
      if (!held.lines.has(line.key)) held.lines.set(line.key, known);
      known.answer(gaugeUnit(rule.watch.kind, line.unit));
      this.#stepThrough(rule, known, line, { firstMs, stepMs, stride }, nowMs, changes);
    }
    // What was there once and is not answered any more has no value; for a rule of silence it has been silent for
    // longer than anybody looks back.
    const last = Math.floor(nowMs / stride) * stride;
    for (const known of held.lines.values()) {
      if (answered.has(known.key) || last <= known.checkedMs) continue;
      if (this.#isGone(known.tags["machine"] ?? "")) {
        await this.#forgetLine(rule, held, known, nowMs);
        continue;
      }
      const missingMs = known.miss(nowMs);
      if (
        isOverWhenGone(rule, known.tags) &&
        nowMs - missingMs >= goneAfterMs &&
        this.#isHeard(known.tags["machine"] ?? "", missingMs)
      ) {
        await this.#forgetLine(rule, held, known, nowMs);
        continue;
      }
      const value = rule.watch.kind === "silence" ? (grid.before * stepMs) / 1000 : null;
      noteChange(changes, known, known.step(rule, value, last));
    }
    await this.#keep(rule, changes, held);
  }

  /**
   * Nothing will come of a machine that was removed, nor of what has ended on one: what is open of it is closed, and
   * its line is no more.
   */
  async #forgetLine(rule: StoredRule, held: HeldRule, line: HeldLine, nowMs: number): Promise<void> {
    const closed = await inTransaction(this.#database, async (connection) => {
      await deleteRuleLine(connection, rule.id, line.key);
      return line.incidentId === null
        ? undefined
        : closeIncident(connection, line.incidentId, nowMs, { ended: "gone" });
    });
    held.lines.delete(line.key);
    if (closed) this.#tell({ kind: "cleared", incident: closed });
  }

  #usual(
    rule: StoredRule,
    held: HeldRule,
    { from, stepMs, lines }: ReadingAnswer,
    nowMs: number,
  ): Promise<ReadonlyMap<string, UsualAt>> {
    // The past is read together with the moments that are compared with it, so anew once one more is settled.
    const told = lines.reduce((sum, { whole, values }) => sum + (whole ?? values.length), from);
    if (held.usual?.told === told) return Promise.resolve(held.usual.of);
    return readUsual(this.#store, this.#names, rule, { fromMs: from, toMs: nowMs, stepMs }).then((of) => {
      held.usual = { told, of };
      return of;
    });
  }

  /** Steps through the figures that are settled and were not looked at yet; the others are waited for. */
  #stepThrough(
    rule: StoredRule,
    known: HeldLine,
    { gauges, settled }: GaugedLine,
    { firstMs, stepMs, stride }: { firstMs: number; stepMs: number; stride: number },
    nowMs: number,
    changes: LineChange[],
  ): void {
    const end = Math.min(gauges.length, settled);
    // A line that is seen for the first time begins with its newest figure: what was before nobody had asked to be told
    // of.
    let newest = end - 1;
    while (newest > 0 && Number.isNaN(gauges[newest])) newest--;
    const isFresh = known.checkedMs === Number.NEGATIVE_INFINITY;
    // What comes late has been heard, though not by the moments that are settled: it was not silent before it began.
    if (
      isFresh &&
      rule.watch.kind === "silence" &&
      end < gauges.length &&
      (gauges[end - 1] as number) > (gauges.at(-1) as number)
    )
      return;
    const begin = isFresh ? Math.max(0, newest) : 0;
    for (let i = begin; i < end; i++) {
      const atMs = firstMs + i * stepMs;
      if (atMs <= known.checkedMs || atMs > nowMs || atMs % stride !== 0) continue;
      const gauge = gauges[i] as number;
      noteChange(changes, known, known.step(rule, Number.isNaN(gauge) ? null : gauge, atMs));
    }
  }

  /** Stores where lines stand now, with what became of their incidents, in one transaction; then tells. */
  async #keep(rule: StoredRule, changes: readonly LineChange[], held: HeldRule): Promise<void> {
    const news: RuleNews[] = [];
    const ids = new Map<HeldLine, number | null>();
    if (changes.length > 0) {
      try {
        await inTransaction(this.#database, async (connection) => {
          for (const { line, effect } of changes) {
            if (!effect) continue;
            const told = await this.#become(
              connection,
              rule,
              line,
              ids.has(line) ? (ids.get(line) as number | null) : line.incidentId,
              effect,
            );
            ids.set(line, told.incidentId);
            if (told.news) news.push(told.news);
          }
          const lines = [...new Set(changes.map(({ line }) => line))];
          await upsertRuleLines(
            connection,
            rule.id,
            lines.map((line) => ({
              line: line.key,
              tags: line.tags,
              state: line.state,
              incidentId: ids.has(line) ? (ids.get(line) as number | null) : line.incidentId,
            })),
          );
        });
      } catch (error) {
        held.isStale = true; // the lines stand where they are stored to stand, and are checked again
        throw error;
      }
      for (const [line, id] of ids) line.keep(id);
    }
    const furthest = new Map(
      [...held.lines.values()].flatMap(({ incidentId, furthest: most, value }) =>
        incidentId !== null && most !== null && most === value ? [[incidentId, most] as const] : [],
      ),
    );
    await noteFurthest(this.#database, furthest);
    for (const one of news) this.#tell(one);
  }

  async #reread(ruleId: number, held: HeldRule): Promise<void> {
    const stored = await listRuleLines(this.#database);
    held.lines.clear();
    for (const line of stored) if (line.ruleId === ruleId) held.lines.set(line.line, HeldLine.stored(line));
    held.isStale = false;
  }

  async #become(
    connection: Connection,
    rule: StoredRule,
    line: HeldLine,
    incidentId: number | null,
    effect: Effect,
  ): Promise<{ readonly incidentId: number | null; readonly news?: RuleNews }> {
    if (effect.kind === "raise") {
      const incident = await openIncident(connection, rule, {
        tags: line.tags,
        unit: line.unit,
        limit: passedLimit(rule, effect),
        effect,
      });
      return { incidentId: incident.id, news: { kind: "raised", incident } };
    }
    if (incidentId === null) return { incidentId }; // it was closed by hand
    if (effect.kind === "clear") {
      const incident = await closeIncident(connection, incidentId, effect.atMs, { value: effect.value });
      return { incidentId: null, ...(incident && { news: { kind: "cleared", incident } as const }) };
    }
    const incident = await changeSeverity(connection, incidentId, effect.severity, effect.atMs);
    return {
      incidentId,
      ...(incident && { news: { kind: effect.kind === "worsen" ? "worsened" : "eased", incident } as const }),
    };
  }

  #heldOf(ruleId: number): HeldRule {
    let held = this.#held.get(ruleId);
    if (!held)
      this.#held.set(
        ruleId,
        (held = {
          lines: new Map(),
          isStale: false,
          grid: undefined,
          usual: undefined,
          dueMs: 0,
          failures: 0,
          failure: undefined,
        }),
      );
    return held;
  }
}

/** By what an incident is raised, and called. */
function saysTheSame(before: RuleDocument, after: RuleDocument): boolean {
  const said = ({ name, reading, watch, compare, notice, urgent }: RuleDocument) => ({
    name,
    reading,
    watch,
    compare,
    notice,
    urgent,
  });
  return equal(said(before), said(after));
}

interface LineChange {
  readonly line: HeldLine;
  readonly effect: Effect | undefined;
}

/** What has changed of a line is stored with what becomes of its incident. */
function noteChange(changes: LineChange[], line: HeldLine, stepped: Stepped | undefined): void {
  if (stepped) changes.push({ line, effect: stepped.effect });
}

/** The limit that was passed: of a range the end that the value is beyond, or nearer to. */
function passedLimit(rule: RuleDocument, { severity, value }: Effect): number {
  const { low, high } = rule[severity] ?? {};
  if (low === undefined || high === undefined) return low ?? high ?? 0;
  return value !== null && Math.abs(value - low) < Math.abs(value - high) ? low : high;
}
