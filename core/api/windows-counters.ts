import type { CounterCategory, CounterChoice } from "../formats/windows/counter-choice.ts";
import { type Nothing, route } from "./route.ts";

/**
 * What a Windows machine said that it can count, what a person chose of it (null: the usual), and what the usual is
 * there.
 */
export interface WindowsCountersView {
  readonly told: readonly CounterCategory[];
  readonly toldAtMs: number;
  readonly chosen: CounterChoice | null;
  readonly byDefault: CounterChoice;
}

/** Null where its batch file has not run yet. */
export const getWindowsCounters = route("GET", "/sources/:id/windows-counters")<Nothing, WindowsCountersView | null>();
export const chooseWindowsCounters = route("PUT", "/sources/:id/windows-counters", 204)<{
  readonly chosen: CounterChoice | null;
}>();
