import type { MachineEvent } from "../events/machine-event.ts";
import { present } from "../units/present.ts";
import { type SlowKind, slowKinds } from "./slow-kinds.ts";

/** Something that took longer than its kind may. */
export interface SlowMoment {
  readonly kind: SlowKind;
  /** What is alike and told together: the same counters, the same route. */
  readonly key: string;
  /** What it was, in words. */
  readonly what: string;
  readonly endedMs: number;
  readonly tookMs: number;
}

/** The same was slow again and again: from the first one's start to the last one's end. */
export interface SlowSpell {
  readonly kind: SlowKind;
  readonly fromMs: number;
  readonly toMs: number;
  readonly times: number;
  /** The slowest of them: how long it took, and what it was. */
  readonly mostMs: number;
  readonly what: string;
}

/** The kind of events that tell of slowness: scripts name kinds of their own, and "slow" may be one of them. */
export const slowEventKind = "nubrel.slow";

/** What comes later than this after the one before begins another spell, as does what comes once one is so long. */
export const spellEndsMs = 600_000;
export const longestSpellMs = 3_600_000;
/** Different spells of a kind at a time; what else is slow meanwhile is told in one together. */
export const mostSpellsOfKind = 5;

/** A spell as it stands; its mark stays the same while it goes on. */
export interface ChangedSpell {
  readonly mark: object;
  readonly spell: SlowSpell;
}

interface OpenSpell {
  spell: SlowSpell;
  isChanged: boolean;
}

/** Gathers slow moments to spells, so that a slow hour is a few of them; bounded, whatever comes. */
export class SlowSpells {
  readonly #open = new Map<string, OpenSpell>();

  note({ kind, key, what, endedMs, tookMs }: SlowMoment): void {
    this.#endBefore(endedMs);
    const own = `${kind}\n${key}`;
    const others = `${kind}\n\n`;
    const isRoom = this.#open.has(own) || this.#countOf(kind) < mostSpellsOfKind;
    const place = isRoom ? own : others;
    const before = this.#open.get(place)?.spell;
    const isSlowest = !before || tookMs > before.mostMs;
    const fromMs = endedMs - tookMs;
    const spell = {
      kind,
      fromMs: before ? Math.min(before.fromMs, fromMs) : fromMs,
      toMs: before ? Math.max(before.toMs, endedMs) : endedMs,
      times: (before?.times ?? 0) + 1,
      mostMs: isSlowest ? tookMs : before.mostMs,
      what: isSlowest ? what : before.what,
    };
    const open = this.#open.get(place);
    if (open) Object.assign(open, { spell, isChanged: true });
    else this.#open.set(place, { spell, isChanged: true });
  }

  /** The spells that have changed since `kept` was told of them. */
  changed(): readonly ChangedSpell[] {
    return [...this.#open.values()].filter((one) => one.isChanged).map((mark) => ({ mark, spell: mark.spell }));
  }

  /** A spell is kept as it was: it is told again once it goes on. */
  kept({ mark, spell }: ChangedSpell): void {
    const open = mark as OpenSpell;
    if (open.spell === spell) open.isChanged = false;
  }

  /** Leaves what has ended by now and is kept; what could not be kept yet stays, for it is told once it can be. */
  #endBefore(nowMs: number): void {
    for (const [place, { spell, isChanged }] of this.#open) {
      const isOver = nowMs - spell.toMs > spellEndsMs || spell.toMs - spell.fromMs > longestSpellMs;
      if (isOver && !isChanged) this.#open.delete(place);
    }
  }

  #countOf(kind: SlowKind): number {
    let count = 0;
    for (const { spell } of this.#open.values()) if (spell.kind === kind) count++;
    return count;
  }
}

/** The event that tells of a spell; `slowSpellOf` reads it. */
export function eventOfSpell(spell: SlowSpell, machine: string): Omit<MachineEvent, "id"> {
  const { kind, fromMs, toMs, times, mostMs, what } = spell;
  const { one, several } = slowKinds[kind];
  const { text, unit } = present(mostMs / 1000, "s");
  return {
    fromMs,
    toMs,
    kind: slowEventKind,
    machine,
    text: `${times === 1 ? `${one} took` : `${several} took up to`} ${text} ${unit}${times === 1 ? "" : `, ${times} times`}: ${what}.`,
    tags: { of: kind, what, times: String(times), most_ms: String(Math.round(mostMs)) },
  };
}

/** What an event tells of slowness; undefined where it is of something else, or of a kind that is not watched any more. */
export function slowSpellOf({ kind, fromMs, toMs, tags }: MachineEvent): SlowSpell | undefined {
  const { of, what, times, most_ms: mostMs } = tags;
  if (kind !== slowEventKind || of === undefined || what === undefined || !Object.hasOwn(slowKinds, of))
    return undefined;
  return { kind: of as SlowKind, fromMs, toMs, times: Number(times), mostMs: Number(mostMs), what };
}
