import fc from "fast-check";
import { describe, expect, test } from "vitest";
import { emitMemory } from "./memory-states.ts";

const statesOf = (memory: Parameters<typeof emitMemory>[0]) => {
  const states: Record<string, number> = {};
  emitMemory(memory, (_, { state }, value) => {
    states[state as string] = value;
  });
  return states;
};

describe("memory by what it is used for", () => {
  test("as free(1) has it: used is the total minus what is available, shared a part of it (hand-worked)", () => {
    expect(statesOf({ total: 8000, available: 5000, free: 1500, buffers: 200, shared: 300 })).toEqual({
      used: 2700,
      shared: 300,
      buffers: 200,
      cached: 3300,
      free: 1500,
    });
  });
  test("adds up to the total and is nowhere below 0, whatever a kernel says (property)", () => {
    const amount = fc.integer({ min: 0, max: 1e6 });
    fc.assert(
      fc.property(amount, amount, amount, amount, amount, (total, available, free, buffers, shared) => {
        const states = statesOf({ total, available: Math.min(available, total), free, buffers, shared });
        expect(Object.values(states).reduce((sum, v) => sum + v, 0)).toBe(total);
        expect(Math.min(...Object.values(states))).toBeGreaterThanOrEqual(0);
      }),
    );
  });
});
