import { createSocket } from "node:dgram";
import { setTimeout as delay } from "node:timers/promises";
import type { AgentVariable } from "../standins/devices/snmp-devices.ts";
import { startSnmpAgent } from "../standins/protocols/snmp-agent.ts";
import { finish, report } from "./report.ts";
import { processorSeconds, serve } from "./served.ts";

// 100 devices of 500 values every 15 s: switches of 50 ports, ten values each. The agents run in this process, the
// server in one of its own.
const devices = 100;
const ports = 50;
const valuesOfPort = 10;
const everyMs = 15_000;

const state = (second: number): readonly AgentVariable[] => {
  const column = (oid: string, type: AgentVariable["type"], value: (port: number) => number | string) =>
    Array.from(
      { length: ports },
      (_, i): AgentVariable => ({ oid: `1.3.6.1.2.1.${oid}.${i + 1}`, type, value: value(i + 1) }),
    );
  const counted = (factor: number) => (port: number) => Math.floor(second * factor * port);
  return [
    ...column("2.2.1.2", "OctetString", (port) => `port ${port}`),
    ...column("2.2.1.3", "Integer", () => 6),
    ...column("2.2.1.5", "Gauge", () => 1e9),
    ...column("2.2.1.7", "Integer", () => 1),
    ...column("2.2.1.8", "Integer", () => 1),
    ...[10, 11, 13, 14, 16, 17, 19, 20].flatMap((n) =>
      column(`2.2.1.${n}`, "Counter", (port) => counted(1)(port) % 2 ** 32),
    ),
    ...column("31.1.1.1.1", "OctetString", (port) => `port ${port}`),
    ...[6, 7, 10, 11].flatMap((n) => column(`31.1.1.1.${n}`, "Counter64", counted(1000 + n))),
    ...column("31.1.1.1.15", "Gauge", () => 1000),
  ];
};

const opened = await Promise.all(
  Array.from({ length: 4 }, async () => {
    const port = await freePort();
    return { port, agent: await startSnmpAgent(port, { community: "quayside" }, state, () => Date.now() / 1000) };
  }),
);
const { server, ask } = await serve("snmp");
for (let i = 0; i < devices; i++) {
  const made = await ask("POST", "/api/sources", {
    kind: "snmp",
    name: `switch ${i}`,
    machine: `s${i}`,
    intervalMs: everyMs,
    device: {
      kind: "snmp",
      host: "127.0.0.1",
      port: opened[i % opened.length]?.port,
      timeoutMs: 10_000,
      modules: ["interfaces"],
    },
    credentials: { kind: "community", community: "quayside" },
  });
  if (made.status !== 201) throw new Error(JSON.stringify(made.body));
}
const taken = async () =>
  (
    (await ask("GET", "/api/sources")).body as {
      kind: string;
      taken: number | null;
      failure: { words: string } | null;
    }[]
  ).filter(({ kind }) => kind === "snmp");
for (let tries = 0; !(await taken()).every((one) => one.taken === ports * valuesOfPort); tries++) {
  if (tries > 90)
    throw new Error(
      `not all devices were gathered: ${JSON.stringify((await taken()).find((one) => one.taken !== ports * valuesOfPort))}`,
    );
  await delay(1000);
}
await delay(everyMs);
const before = processorSeconds(server.pid);
const began = performance.now();
await delay(3 * everyMs);
const share = (processorSeconds(server.pid) - before) / ((performance.now() - began) / 1000);
const failed = (await taken()).filter(({ failure }) => failure !== null);
if (failed.length > 0) throw new Error(`${failed.length} devices failed: ${failed[0]?.failure?.words}`);
report(
  "100 devices by SNMP of 500 values every 15 s, processor",
  share * 100,
  "% of a core",
  { atMost: 12 },
  `${Math.round((devices * ports * valuesOfPort * 1000) / everyMs)} values a second`,
);
await server.stop();
for (const { agent } of opened) agent.close();
finish();

function freePort(): Promise<number> {
  return new Promise((resolve) => {
    const socket = createSocket("udp4");
    socket.bind(0, "127.0.0.1", () => {
      const { port } = socket.address();
      socket.close(() => resolve(port));
    });
  });
}
