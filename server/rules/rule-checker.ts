import { seriesKey } from "../../core/counters/series-key.ts";
import type { Line, ReadingAnswer } from "../../core/reading/document.ts";
import type { IncidentView, LineState, Rule } from "../../core/rules/rule.ts";
import { freshLine, stepLine } from "../../core/rules/step-line.ts";
import { type Database, inTransaction } from "../db/pool.ts";
import { answerReading } from "../reading/answer-reading.ts";
import type { MachineNames } from "../sources/machine-names.ts";
import type { Store } from "../store/store.ts";
import { closeIncident, closeRule, listRuleLines, noteFurthest, openIncident, type StoredLine, upsertRuleLine } from "./incident-rows.ts";
import { deleteRule, listRules, switchRule } from "./rule-rows.ts";

/** How far back a check looks for the newest value; it also covers sources that answer once a minute. */
const looksBackMs = 180_000;
/** A value is new enough while it is not older than this many steps; a step is as long as the source's interval. */
const freshSteps = 3;

export type RuleNews = { readonly kind: "raised" | "cleared"; readonly incident: IncidentView };

/** Where a rule stands as a whole: its worst line. */
export interface RuleState {
  readonly mode: LineState["mode"];
  readonly sinceMs: number;
  readonly value: number | null;
  readonly lines: number;
  /** Why the last check failed; undefined when it did not. */
  readonly failure?: string;
}

interface HeldLine {
  state: LineState;
  incidentId: number | null;
  value: number | null;
  furthest: number | null;
}

/** Checks rules against the newest values, keeps where every line stands in the database, and tells what is raised and cleared. */
export class RuleChecker {
  readonly #database: Database;
  readonly #store: Store;
  readonly #tell: (news: RuleNews) => void;
  readonly #names: MachineNames | undefined;
  readonly #lines = new Map<number, Map<string, HeldLine>>();
  readonly #failures = new Map<number, string>();
  #turn: Promise<unknown> = Promise.resolve();

  private constructor(database: Database, store: Store, tell: (news: RuleNews) => void, names: MachineNames | undefined) {
    this.#names = names;
    this.#database = database;
    this.#store = store;
    this.#tell = tell;
  }

  static async open(database: Database, store: Store, tell: (news: RuleNews) => void, names?: MachineNames): Promise<RuleChecker> {
    const checker = new RuleChecker(database, store, tell, names);
    for (const { ruleId, line, mode, sinceMs, incidentId } of await listRuleLines(database)) {
      checker.#linesOf(ruleId).set(line, { state: { mode, sinceMs, open: incidentId !== null }, incidentId, value: null, furthest: null });
    }
    return checker;
  }

  /** Checks every rule that is on. A rule that fails does not keep the others from being checked. */
  check(nowMs: number): Promise<void> {
    return this.#inTurn(() => this.#checkAll(nowMs));
  }

  async #checkAll(nowMs: number): Promise<void> {
    for (const rule of await listRules(this.#database)) {
      if (!rule.on) continue;
      try {
        await this.#checkRule(rule, nowMs);
        this.#failures.delete(rule.id);
      } catch (error) {
        this.#failures.set(rule.id, error instanceof Error ? error.message : String(error));
      }
    }
  }

  stateOf(ruleId: number): RuleState | undefined {
    const failure = this.#failures.get(ruleId);
    const lines = [...(this.#lines.get(ruleId)?.values() ?? [])];
    const worst = lines.sort((a, b) => rank(a.state) - rank(b.state) || a.state.sinceMs - b.state.sinceMs)[0];
    if (!worst) return failure === undefined ? undefined : { mode: "blind", sinceMs: 0, value: null, lines: 0, failure };
    return { mode: worst.state.mode, sinceMs: worst.state.sinceMs, value: worst.value, lines: lines.length, ...(failure !== undefined && { failure }) };
  }

  /** Switches a rule; off closes its incidents. Undefined where there is no such rule. */
  switch(ruleId: number, on: boolean, nowMs: number): Promise<Rule | undefined> {
    return this.#inTurn(async () => {
      if (!on) await this.#close(ruleId, nowMs);
      return switchRule(this.#database, ruleId, on);
    });
  }

  /** Removes a rule and closes its incidents, which stay in the history. */
  remove(ruleId: number, nowMs: number): Promise<boolean> {
    return this.#inTurn(async () => {
      await this.#close(ruleId, nowMs);
      return deleteRule(this.#database, ruleId);
    });
  }

  /** One thing at a time: a check that runs while its rule is switched off would open an incident that nothing closes. */
  #inTurn<T>(work: () => Promise<T>): Promise<T> {
    const result = this.#turn.then(work);
    this.#turn = result.catch(() => {});
    return result;
  }

  async #close(ruleId: number, nowMs: number): Promise<void> {
    const closed = await inTransaction(this.#database, (connection) => closeRule(connection, ruleId, nowMs));
    this.#lines.delete(ruleId);
    this.#failures.delete(ruleId);
    for (const incident of closed) this.#tell({ kind: "cleared", incident });
  }

  async #checkRule(rule: Rule, nowMs: number): Promise<void> {
    const answer = await answerReading(this.#store, { ...rule.reading, window: { from: nowMs - looksBackMs, to: nowMs }, points: 60 }, undefined, this.#names);
    const lines = this.#linesOf(rule.id);
    const answered = new Map(answer.lines.map((line) => [seriesKey(line.of, line.tags), line]));
    for (const [key, line] of answered) await this.#checkLine(rule, key, line, newestValue(line, answer, nowMs), nowMs);
    for (const key of lines.keys()) if (!answered.has(key)) await this.#checkLine(rule, key, undefined, null, nowMs);
  }

  async #checkLine(rule: Rule, key: string, line: Line | undefined, value: number | null, nowMs: number): Promise<void> {
    const lines = this.#linesOf(rule.id);
    const held = lines.get(key) ?? { state: freshLine(nowMs), incidentId: null, value: null, furthest: null };
    const { state, effect } = stepLine(rule, held.state, value, nowMs);
    let incidentId = held.incidentId;
    let news: RuleNews | undefined;
    if (state !== held.state || !lines.has(key)) {
      await inTransaction(this.#database, async (connection) => {
        if (effect?.kind === "raise" && line) {
          const incident = await openIncident(connection, rule, line.tags, line.unit, effect);
          incidentId = incident.id;
          news = { kind: "raised", incident };
        } else if (effect?.kind === "clear" && incidentId !== null) {
          const incident = await closeIncident(connection, incidentId, effect.atMs);
          incidentId = null;
          if (incident) news = { kind: "cleared", incident };
        }
        await upsertRuleLine(connection, { ruleId: rule.id, line: key, mode: state.mode, sinceMs: state.sinceMs, incidentId } satisfies StoredLine);
      });
    }
    lines.set(key, { state, incidentId, value, furthest: await this.#furthest(rule, held, incidentId, value) });
    if (news) this.#tell(news);
  }

  async #furthest(rule: Rule, held: HeldLine, incidentId: number | null, value: number | null): Promise<number | null> {
    if (incidentId === null) return null;
    if (value === null || (held.furthest !== null && (rule.compare === "above" ? value <= held.furthest : value >= held.furthest))) return held.furthest;
    await noteFurthest(this.#database, incidentId, value);
    return value;
  }

  #linesOf(ruleId: number): Map<string, HeldLine> {
    let lines = this.#lines.get(ruleId);
    if (!lines) this.#lines.set(ruleId, (lines = new Map()));
    return lines;
  }
}

/** The newest value of a line, null where the newest is too old to say anything about now. */
function newestValue(line: Line, answer: ReadingAnswer, nowMs: number): number | null {
  for (let i = line.values.length - 1; i >= 0; i--) {
    const value = line.values[i];
    if (value === null || value === undefined) continue;
    const endMs = answer.from + (i + 1) * answer.stepMs;
    return nowMs - endMs <= freshSteps * answer.stepMs ? value : null;
  }
  return null;
}

const order = ["raised", "easing", "blind", "building", "quiet"];
const rank = (state: LineState) => order.indexOf(state.mode) + (state.mode === "blind" && state.open ? -3 : 0);
