import { expect, test } from "vitest";
import { WholePower, wholeOf } from "./whole-power.ts";

const sensors = (told: Readonly<Record<string, number>>) =>
  Object.entries(told).map(([sensor, watts]) => ({ sensor, watts }));

// Names as controllers and supplies were seen to write them (common practice, no source); watts are made up.
test.each<[string, Readonly<Record<string, number>>, readonly string[] | undefined]>([
  ["a supply with a battery: its input, not input and output", { input: 91, output: 333 }, ["input"]],
  [
    "three phases",
    { "input 1": 400, "input 2": 500, "input 3": 470, "output 1": 380, "output 2": 480, "output 3": 450 },
    ["input 1", "input 2", "input 3"],
  ],
  ["a supply that tells its output only", { output: 1370 }, ["output"]],
  ["a supply that always says that its input is 0", { input: 0, output: 333 }, ["output"]],
  [
    "a controller's whole beside its supplies",
    { "System Power Control": 149, "PSU 1 input": 160, "PSU 1 output": 149 },
    ["System Power Control"],
  ],
  [
    "a system's input beside its supplies'",
    { "System input": 149, "PSU 1 input": 80, "PSU 2 input": 80 },
    ["System input"],
  ],
  [
    "two supplies",
    { "PS1 Input Power": 96, "PS2 Input Power": 104, "PS1 Output Power": 90, "PS2 Output Power": 98, "CPU Power": 60 },
    ["PS1 Input Power", "PS2 Input Power"],
  ],
  ["supplies in short", { PSU1_PIN: 96, PSU1_POUT: 90, PSU2_PIN: 100, PSU2_POUT: 95 }, ["PSU1_PIN", "PSU2_PIN"]],
  ["a whole by DCMI", { "whole machine": 212, "Pwr Consumption": 210, "CPU Power": 60 }, ["whole machine"]],
  ["a meter", { "Power Meter": 210, "CPU1 Power": 60, "Memory Power": 30 }, ["Power Meter"]],
  ["parts alone", { "CPU Power": 60, "DIMM Power": 30 }, undefined],
  ["one sensor of any name", { Verbrauch: 60 }, ["Verbrauch"]],
  ["none", {}, undefined],
])("%s", (_name, told, whole) => {
  expect(wholeOf(sensors(told))).toEqual(whole);
});

test("it is decided once: a sensor that is silent for a moment makes no other one the whole", () => {
  const whole = new WholePower();
  expect(whole.of(sensors({ "PS1 Input": 96, "PS2 Input": 104, "PS1 Output": 90 }))).toEqual({
    sensor: "PS1 Input + PS2 Input",
    watts: 200,
  });
  expect(whole.of(sensors({ "PS1 Output": 90, "PS2 Input": 104 }))).toBeUndefined();
  expect(whole.of(sensors({ "PS1 Input": 0, "PS2 Input": 190 }))).toEqual({
    sensor: "PS1 Input + PS2 Input",
    watts: 190,
  });
});
