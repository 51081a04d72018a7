import { describe, expect, test } from "vitest";
import { type Findable, findCounters } from "./find-counters.ts";
import { subjectOf } from "./subject.ts";

const counter = (name: string, words: string, more: Partial<Findable> = {}): Findable => ({
  name,
  words,
  explains: "",
  machines: [],
  tags: [],
  ...more,
});
const all = [
  counter("system.network.io", "network traffic", {
    tags: [{ tag: "interface", values: ["enp1s0"] }],
    machines: ["gate"],
  }),
  counter("system.disk.io", "disk throughput", {
    explains: "Bytes read from and written to a disk of the network store.",
  }),
  counter("hw.network.up", "link is up"),
  counter("container.network.io", "container's network traffic"),
];
const found = (typed: string) => findCounters(all, typed).map(({ name }) => name);

describe("counters are found by what is typed", () => {
  test.each([
    ["", ["container.network.io", "system.disk.io", "hw.network.up", "system.network.io"]],
    ["network", ["system.network.io", "container.network.io", "hw.network.up", "system.disk.io"]],
    ["Network IO", ["system.network.io", "container.network.io", "system.disk.io"]],
    ["enp1", ["system.network.io"]],
    ["gate traffic", ["system.network.io"]],
    ["traffic gate", ["system.network.io"]],
    ["bandwidth gate", ["system.network.io"]],
    ["nothing such", []],
  ])("%j", (typed, expected) => expect(found(typed)).toEqual(expected));
});

test.each([
  ["system.cpu.time", "Processor"],
  ["system.memory.limit", "Memory"],
  ["system.uptime", "System"],
  ["process.cpu.time", "Processes"],
  ["hw.power", "Hardware and power"],
  ["windows.processor.x", "Windows"],
  ["myapp_queue", "Myapp"],
  ["systemx.cpu", "Systemx"],
])("%s stands under %s", (name, subject) => expect(subjectOf(name)).toBe(subject));
