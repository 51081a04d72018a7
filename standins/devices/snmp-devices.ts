import { always, between, Growth } from "../world/growth.ts";
import { isWithin, type World } from "../world/world.ts";

/** Types of variables, by their names in RFC 2578. */
export type AgentType = "Integer" | "OctetString" | "OID" | "Counter" | "Gauge" | "TimeTicks" | "Counter64";
export interface AgentVariable {
  readonly oid: string;
  readonly type: AgentType;
  readonly value: number | string;
}
/** All variables of a device at a moment; empty while it does not answer. */
export type AgentState = (second: number) => readonly AgentVariable[];

const system = (description: string, name: string, upSeconds: number): AgentVariable[] => [
  { oid: "1.3.6.1.2.1.1.1.0", type: "OctetString", value: description },
  { oid: "1.3.6.1.2.1.1.2.0", type: "OID", value: "1.3.6.1.4.1.32473.1" }, // the number for examples (RFC 5612)
  { oid: "1.3.6.1.2.1.1.3.0", type: "TimeTicks", value: Math.floor(upSeconds * 100) % 2 ** 32 },
  { oid: "1.3.6.1.2.1.1.5.0", type: "OctetString", value: name },
];

interface Port {
  readonly name: string;
  readonly words: string;
  readonly megabits: number;
  readonly received: Growth;
  readonly sent: Growth;
}

/** `gate`, the router: shows lift what it passes on, and the archive copy passes through its inner ports. */
// biome-ignore lint/complexity/noExcessiveLinesPerFunction: one table of a device, row by row
export function gateState(world: World): AgentState {
  const { shows, archiveCopy, office } = world;
  const ports: readonly Port[] = [
    {
      name: "wan",
      words: "to the provider",
      megabits: 250,
      received: new Growth(201, [
        [180_000, always],
        [420_000, shows],
        [260_000, office],
      ]),
      sent: new Growth(202, [
        [310_000, always],
        [2_900_000, shows],
      ]),
    },
    {
      name: "lan",
      words: "machines",
      megabits: 1000,
      received: new Growth(203, [
        [420_000, always],
        [2_600_000, shows],
        [9_000_000, archiveCopy],
      ]),
      sent: new Growth(204, [
        [390_000, always],
        [700_000, shows],
        [240_000, office],
      ]),
    },
    {
      name: "studio",
      words: "desk and playout",
      megabits: 1000,
      received: new Growth(205, [
        [90_000, always],
        [900_000, shows],
      ]),
      sent: new Growth(206, [
        [70_000, always],
        [150_000, shows],
        [200_000, office],
      ]),
    },
    {
      name: "mast",
      words: "radio link to the transmitter",
      megabits: 25,
      received: new Growth(207, [[9000, always]]),
      sent: new Growth(208, [
        [42_000, always],
        [18_000, shows],
      ]),
    },
  ];
  return (second) => {
    const boot = world.bootOf("gate", second);
    const up = (port: Port) => port.name !== "mast" || !isWithin(second, world.mastAway);
    const column = (n: string, type: AgentType, value: (port: Port) => number | string) =>
      ports.map((port, i): AgentVariable => ({ oid: `1.3.6.1.2.1.${n}.${i + 1}`, type, value: value(port) }));
    const bytes = (growth: Growth) => growth.at(second, boot);
    const ifs = (n: number) => `2.2.1.${n}`;
    const ifx = (n: number) => `31.1.1.1.${n}`;
    const load = 0.06 + 0.2 * shows.rate(second) + 0.12 * archiveCopy.rate(second);
    const memory = 524_288;
    return [
      ...system("Kestrel Quay gateway", "gate", second - boot),
      { oid: "1.3.6.1.2.1.2.1.0", type: "Integer", value: ports.length },
      ...ports.map((_, i): AgentVariable => ({ oid: `1.3.6.1.2.1.2.2.1.1.${i + 1}`, type: "Integer", value: i + 1 })),
      ...column(ifs(2), "OctetString", ({ name }) => name),
      ...column(ifs(3), "Integer", () => 6),
      ...column(ifs(5), "Gauge", ({ megabits }) => megabits * 1e6),
      ...column(ifs(7), "Integer", () => 1),
      ...column(ifs(8), "Integer", (port) => (up(port) ? 1 : 2)),
      ...column(ifs(10), "Counter", ({ received }) => bytes(received) % 2 ** 32),
      ...column(ifs(11), "Counter", ({ received }) => Math.floor(bytes(received) / 820) % 2 ** 32),
      ...column(ifs(13), "Counter", ({ name, received }) =>
        name === "mast" ? Math.floor(bytes(received) / 700_000) : 0,
      ),
      ...column(ifs(14), "Counter", ({ name, received }) =>
        name === "mast" ? Math.floor(bytes(received) / 300_000) : 0,
      ),
      ...column(ifs(16), "Counter", ({ sent }) => bytes(sent) % 2 ** 32),
      ...column(ifs(17), "Counter", ({ sent }) => Math.floor(bytes(sent) / 1040) % 2 ** 32),
      ...column(ifs(19), "Counter", () => 0),
      ...column(ifs(20), "Counter", () => 0),
      { oid: "1.3.6.1.2.1.25.1.1.0", type: "TimeTicks", value: Math.floor((second - boot) * 100) % 2 ** 32 },
      { oid: "1.3.6.1.2.1.25.1.5.0", type: "Gauge", value: 0 },
      { oid: "1.3.6.1.2.1.25.1.6.0", type: "Gauge", value: 61 },
      { oid: "1.3.6.1.2.1.25.2.3.1.2.1", type: "OID", value: "1.3.6.1.2.1.25.2.1.2" },
      { oid: "1.3.6.1.2.1.25.2.3.1.3.1", type: "OctetString", value: "memory" },
      { oid: "1.3.6.1.2.1.25.2.3.1.4.1", type: "Integer", value: 1024 },
      { oid: "1.3.6.1.2.1.25.2.3.1.5.1", type: "Integer", value: memory },
      {
        oid: "1.3.6.1.2.1.25.2.3.1.6.1",
        type: "Integer",
        value: Math.floor(memory * between(0.31, 0.38, 211, second, 5400)),
      },
      ...[0, 1].map(
        (core): AgentVariable => ({
          oid: `1.3.6.1.2.1.25.3.3.1.2.${core + 1}`,
          type: "Integer",
          value: Math.round(100 * load * between(0.8, 1.3, 212 + core, second, 300)),
        }),
      ),
      ...column(ifx(1), "OctetString", ({ name }) => name),
      ...column(ifx(6), "Counter64", ({ received }) => bytes(received)),
      ...column(ifx(7), "Counter64", ({ received }) => Math.floor(bytes(received) / 820)),
      ...column(ifx(10), "Counter64", ({ sent }) => bytes(sent)),
      ...column(ifx(11), "Counter64", ({ sent }) => Math.floor(bytes(sent) / 1040)),
      ...column(ifx(15), "Gauge", ({ megabits }) => megabits),
      ...column(ifx(18), "OctetString", ({ words }) => words),
      ...sensor(1, "board", 8, between(41, 47, 220, second, 7200) + 4 * shows.rate(second)),
      {
        oid: "1.3.6.1.4.1.32473.2.1.0",
        type: "Gauge",
        value: Math.round(between(120, 180, 221, second, 600) + 260 * shows.rate(second)),
      }, // connections: nobody has described this number
      // the radio link's quality in percent
      { oid: "1.3.6.1.4.1.32473.2.2.0", type: "Integer", value: Math.round(between(58, 74, 222, second, 900)) },
    ];
  };
}

/** RFC 3433, one digit after the point; its name by RFC 6933. */
function sensor(index: number, name: string, type: number, value: number): AgentVariable[] {
  const of = (column: number) => `1.3.6.1.2.1.99.1.1.1.${column}.${index}`;
  return [
    { oid: `1.3.6.1.2.1.47.1.1.1.1.7.${index}`, type: "OctetString", value: name },
    { oid: of(1), type: "Integer", value: type },
    { oid: of(2), type: "Integer", value: 9 },
    { oid: of(3), type: "Integer", value: 1 },
    { oid: of(4), type: "Integer", value: Math.round(value * 10) },
    { oid: of(5), type: "Integer", value: 1 },
  ];
}

/** `ups`: it carries hive, vault, stream, gate and playout; nine days before it did so without the mains. */
export function upsState(world: World): AgentState {
  return (second) => {
    const cut = world.powerCut;
    const onBattery = isWithin(second, cut);
    const watts =
      318 +
      34 * world.shows.rate(second) +
      61 * world.archiveCopy.rate(second) +
      12 * world.integrityScan.rate(second) +
      between(-6, 6, 231, second, 120);
    const drained = onBattery
      ? (second - cut.from) / 660
      : second >= cut.to
        ? Math.max(0, 1 - (second - cut.to) / 9000)
        : 0;
    const charge = Math.round(100 - 41 * drained);
    const u = "1.3.6.1.2.1.33.1";
    const integer = (oid: string, value: number): AgentVariable => ({
      oid: `${u}.${oid}`,
      type: "Integer",
      value: Math.round(value),
    });
    return [
      ...system("Kestrel Quay power supply", "ups", second - world.bootOf("ups", second)),
      { oid: `${u}.1.1.0`, type: "OctetString", value: "Kestrel Quay" },
      { oid: `${u}.1.2.0`, type: "OctetString", value: "rack supply, 900 W" },
      integer("2.1.0", charge < 25 ? 3 : 2),
      integer("2.2.0", onBattery ? second - cut.from : 0),
      integer("2.3.0", ((charge / 100) * 27 * 318) / watts),
      integer("2.4.0", charge),
      integer("2.5.0", (onBattery ? 512 : 546) + between(-2, 2, 232, second, 60)),
      integer("2.6.0", onBattery ? -(watts / 51) * 10 : 2),
      integer("2.7.0", between(23, 26, 233, second, 20_000) + (onBattery ? 3 : 0)),
      { oid: `${u}.3.1.0`, type: "Counter", value: second >= cut.from ? 4 : 3 },
      integer("3.2.0", 1),
      integer("3.3.1.2.1", onBattery ? 0 : between(498, 502, 234, second, 30)),
      integer("3.3.1.3.1", onBattery ? 0 : between(228, 235, 235, second, 600)),
      integer("3.3.1.4.1", onBattery ? 0 : (watts / 230) * 10),
      integer("3.3.1.5.1", onBattery ? 0 : watts * 1.06),
      integer("4.1.0", onBattery ? 5 : 3),
      integer("4.2.0", 500),
      integer("4.3.0", 1),
      integer("4.4.1.2.1", 230),
      integer("4.4.1.3.1", (watts / 230) * 10),
      integer("4.4.1.4.1", watts),
      integer("4.4.1.5.1", (watts / 900) * 100),
      { oid: `${u}.6.1.0`, type: "Gauge", value: onBattery ? 1 : 0 },
    ];
  };
}
