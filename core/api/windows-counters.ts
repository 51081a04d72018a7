import type { CounterCategory, CounterChoice } from "../formats/windows/counter-choice.ts";

/** What a Windows machine said that it can count, what a person chose of it (null: the usual), and what the usual is there. */
export interface WindowsCountersView {
  readonly told: readonly CounterCategory[];
  readonly toldAtMs: number;
  readonly chosen: CounterChoice | null;
  readonly usual: CounterChoice;
}
