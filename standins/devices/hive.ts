import { always, between, Growth, type Term } from "../world/growth.ts";
import type { World } from "../world/world.ts";

interface Guest {
  readonly name: string;
  readonly cpus: number;
  readonly memoryGib: number;
  readonly usedShare: number;
  readonly busy: readonly Term[];
  readonly network: readonly Term[];
  readonly disk: readonly Term[];
}

interface Point {
  readonly attributes: Readonly<Record<string, string>>;
  readonly value: number;
}

const GiB = 2 ** 30;

/** Of the process that runs the first guest. */
const firstPid = 3100;

/** `hive`, the hypervisor: what it pushes by OTLP about itself and its guests, as a JSON request. */
// biome-ignore lint/complexity/noExcessiveLinesPerFunction: one table of a device, row by row
export function hiveRequest(world: World): (second: number) => string {
  const { shows, office, archiveCopy, encodes } = world;
  const guests: readonly Guest[] = [
    {
      name: "web",
      cpus: 2,
      memoryGib: 4,
      usedShare: 0.62,
      busy: [
        [0.12, always],
        [0.4, shows],
        [0.1, office],
      ],
      network: [
        [60_000, always],
        [700_000, shows],
      ],
      disk: [[40_000, always]],
    },
    {
      name: "mail",
      cpus: 4,
      memoryGib: 12,
      usedShare: 0.18,
      busy: [
        [0.07, always],
        [0.12, office],
      ],
      network: [
        [9000, always],
        [40_000, office],
      ],
      disk: [
        [70_000, always],
        [90_000, office],
      ],
    },
    {
      name: "booking",
      cpus: 1,
      memoryGib: 2,
      usedShare: 0.48,
      busy: [
        [0.03, always],
        [0.1, office],
      ],
      network: [
        [3000, always],
        [15_000, office],
      ],
      disk: [[20_000, always]],
    },
    {
      name: "transcode",
      cpus: 6,
      memoryGib: 8,
      usedShare: 0.4,
      busy: [
        [0.1, always],
        [3.6, encodes],
        [0.9, archiveCopy],
      ],
      network: [
        [30_000, always],
        [1_400_000, archiveCopy],
      ],
      disk: [
        [60_000, always],
        [5e6, encodes],
      ],
    },
    {
      name: "attic",
      cpus: 2,
      memoryGib: 4,
      usedShare: 0.11,
      busy: [[0.004, always]],
      network: [[120, always]],
      disk: [[300, always]],
    },
  ];
  const running = guests.map((guest, i) => ({
    ...guest,
    cpu: new Growth(
      600 + i,
      guest.busy.map(([amount, shape]) => [amount * 1000, shape] as const),
    ),
    rx: new Growth(610 + i, guest.network),
    tx: new Growth(620 + i, guest.network),
    disk: new Growth(630 + i, guest.disk),
  }));
  const own = new Growth(640, [
    [320, always],
    [260, shows],
    [190, archiveCopy],
  ]);
  // biome-ignore lint/complexity/noExcessiveLinesPerFunction: one table of a device, row by row
  return (second) => {
    const boot = world.bootOf("hive", second);
    const cores = 12;
    const seconds = (own.at(second, boot) + running.reduce((sum, { cpu }) => sum + cpu.at(second, boot), 0)) / 1000;
    const network = (pick: (guest: (typeof running)[number]) => Growth) =>
      running.reduce((sum, guest) => sum + pick(guest).at(second, boot), 0);
    const disk = running.reduce((sum, guest) => sum + guest.disk.at(second, boot), 0);
    const memory = 64 * GiB;
    const taken =
      running.reduce((sum, { memoryGib, usedShare }) => sum + memoryGib * usedShare * GiB, 0) +
      3.2 * GiB +
      0.4 * GiB * between(0, 1, 641, second, 9000);
    const each = (make: (guest: (typeof running)[number], i: number) => Point | Point[]) => running.flatMap(make);
    return JSON.stringify({
      resourceMetrics: [
        {
          resource: { attributes: [{ key: "host.name", value: { stringValue: "hive" } }] },
          scopeMetrics: [
            {
              scope: { name: "hive" },
              metrics: [
                sum("system.cpu.time", "s", second, boot, [
                  { attributes: { mode: "user" }, value: seconds * 0.78 },
                  { attributes: { mode: "system" }, value: seconds * 0.2 },
                  { attributes: { mode: "iowait" }, value: seconds * 0.02 },
                  { attributes: { mode: "idle" }, value: cores * (second - boot) - seconds },
                ]),
                gauge("system.cpu.logical.count", "{cpu}", second, [{ attributes: {}, value: cores }]),
                gauge("system.cpu.load_average", "{thread}", second, [
                  {
                    attributes: { over: "1m" },
                    value: (own.rate(second) + running.reduce((all, { cpu }) => all + cpu.rate(second), 0)) / 950,
                  },
                ]),
                gauge("system.memory.limit", "By", second, [{ attributes: {}, value: memory }]),
                gauge("system.memory.usage", "By", second, [
                  { attributes: { state: "used" }, value: taken },
                  { attributes: { state: "cached" }, value: memory * 0.18 },
                  { attributes: { state: "free" }, value: memory * 0.82 - taken },
                ]),
                sum("system.network.io", "By", second, boot, [
                  { attributes: { interface: "bond0", direction: "receive" }, value: network(({ rx }) => rx) },
                  { attributes: { interface: "bond0", direction: "transmit" }, value: network(({ tx }) => tx) },
                ]),
                sum("system.disk.io", "By", second, boot, [
                  { attributes: { device: "nvme0n1", direction: "read" }, value: disk * 0.4 },
                  { attributes: { device: "nvme0n1", direction: "write" }, value: disk * 0.6 },
                ]),
                sum("system.disk.operations", "{operation}", second, boot, [
                  { attributes: { device: "nvme0n1", direction: "read" }, value: Math.floor((disk * 0.4) / 65_536) },
                  { attributes: { device: "nvme0n1", direction: "write" }, value: Math.floor((disk * 0.6) / 32_768) },
                ]),
                sum("system.disk.operation_time", "s", second, boot, [
                  { attributes: { device: "nvme0n1", direction: "read" }, value: disk / 4e8 },
                  { attributes: { device: "nvme0n1", direction: "write" }, value: disk / 2.2e8 },
                ]),
                sum("system.disk.io_time", "s", second, boot, [
                  { attributes: { device: "nvme0n1" }, value: disk / 4.5e7 },
                ]),
                sum(
                  "process.cpu.time",
                  "s",
                  second,
                  boot,
                  each(({ name, cpu }, i) => ({
                    attributes: { process: `guest-${name}`, pid: String(firstPid + i), mode: "user" },
                    value: cpu.at(second, boot) / 1000,
                  })),
                ),
                gauge(
                  "process.memory.usage",
                  "By",
                  second,
                  each(({ name, memoryGib, usedShare }, i) => ({
                    attributes: { process: `guest-${name}`, pid: String(firstPid + i) },
                    value: Math.floor(memoryGib * GiB * usedShare * 1.04),
                  })),
                ),
                gauge("system.uptime", "s", second, [{ attributes: {}, value: second - boot }]),
                gauge(
                  "guest.state.running",
                  "1",
                  second,
                  each(({ name }) => ({ attributes: { guest: name }, value: 1 })),
                ),
                sum(
                  "guest.cpu.time",
                  "s",
                  second,
                  boot,
                  each(({ name, cpu }) => ({ attributes: { guest: name }, value: cpu.at(second, boot) / 1000 })),
                ),
                gauge(
                  "guest.cpu.count",
                  "{cpu}",
                  second,
                  each(({ name, cpus }) => ({ attributes: { guest: name }, value: cpus })),
                ),
                gauge(
                  "guest.memory.limit",
                  "By",
                  second,
                  each(({ name, memoryGib }) => ({ attributes: { guest: name }, value: memoryGib * GiB })),
                ),
                gauge(
                  "guest.memory.usage",
                  "By",
                  second,
                  each(({ name, memoryGib, usedShare }) => ({
                    attributes: { guest: name },
                    value: Math.floor(
                      memoryGib * GiB * usedShare * between(0.96, 1.04, 650 + name.length, second, 4000),
                    ),
                  })),
                ),
                sum(
                  "guest.network.io",
                  "By",
                  second,
                  boot,
                  each(({ name, rx, tx }) => [
                    {
                      attributes: { guest: name, interface: "net0", direction: "receive" },
                      value: rx.at(second, boot),
                    },
                    {
                      attributes: { guest: name, interface: "net0", direction: "transmit" },
                      value: tx.at(second, boot),
                    },
                  ]),
                ),
                sum(
                  "guest.disk.io",
                  "By",
                  second,
                  boot,
                  each(({ name, disk: of }) => [
                    {
                      attributes: { guest: name, device: "vda", direction: "read" },
                      value: Math.floor(of.at(second, boot) * 0.4),
                    },
                    {
                      attributes: { guest: name, device: "vda", direction: "write" },
                      value: Math.floor(of.at(second, boot) * 0.6),
                    },
                  ]),
                ),
              ],
            },
          ],
        },
      ],
    });
  };
}

const point = (second: number, start: number | undefined, { attributes, value }: Point) => ({
  attributes: Object.entries(attributes).map(([key, text]) => ({ key, value: { stringValue: text } })),
  ...(start !== undefined && { startTimeUnixNano: `${Math.floor(start)}000000000` }),
  timeUnixNano: `${Math.floor(second * 1000)}000000`,
  asDouble: value,
});
const sum = (name: string, unit: string, second: number, boot: number, points: readonly Point[]) => ({
  name,
  unit,
  sum: { aggregationTemporality: 2, isMonotonic: true, dataPoints: points.map((one) => point(second, boot, one)) },
});
const gauge = (name: string, unit: string, second: number, points: readonly Point[]) => ({
  name,
  unit,
  gauge: { dataPoints: points.map((one) => point(second, undefined, one)) },
});

/**
 * `hive`'s management controller: its resources at a moment, by path (older schemas for power, newer ones for heat, as
 * one meets them).
 */
// biome-ignore lint/complexity/noExcessiveLinesPerFunction: one table of a device, row by row
export function hiveController(
  world: World,
): (second: number) => Readonly<Record<string, Readonly<Record<string, unknown>>>> {
  const { shows, encodes, archiveCopy } = world;
  const watts = (second: number) =>
    128 +
    42 * shows.rate(second) +
    24 * archiveCopy.rate(second) +
    61 * encodes.rate(second) +
    between(-3, 3, 660, second, 60);
  const chassis = "/redfish/v1/Chassis/1";
  const link = (path: string) => ({ "@odata.id": path });
  return (second) => {
    const hour = Array.from({ length: 60 }, (_, i) => watts(second - 60 * i));
    const sensor = (id: string, name: string, type: string, units: string, reading: number) =>
      [
        `${chassis}/Sensors/${id}`,
        {
          "@odata.id": `${chassis}/Sensors/${id}`,
          Id: id,
          Name: name,
          ReadingType: type,
          ReadingUnits: units,
          Reading: reading,
          Status: { State: "Enabled", Health: "OK" },
        },
      ] as const;
    const heat = watts(second) / 9;
    const sensors = [
      sensor("inlet", "Inlet", "Temperature", "Cel", Math.round(22 + between(-1, 2, 661, second, 30_000))),
      sensor("cpu", "Processor", "Temperature", "Cel", Math.round(34 + heat)),
      sensor("exhaust", "Exhaust", "Temperature", "Cel", Math.round(27 + heat / 3)),
      sensor("fan1", "Fan 1", "Rotational", "RPM", Math.round((3600 + 60 * heat) / 60) * 60),
      sensor("fan2", "Fan 2", "Rotational", "RPM", Math.round((3540 + 60 * heat) / 60) * 60),
      sensor("v12", "12 V", "Voltage", "V", Math.round(1210 + between(-5, 5, 662, second, 300)) / 100),
    ];
    return {
      "/redfish/v1/": {
        "@odata.id": "/redfish/v1/",
        RedfishVersion: "1.15.0",
        Name: "Root service",
        Chassis: link("/redfish/v1/Chassis"),
        Systems: link("/redfish/v1/Systems"),
        Links: { Sessions: link("/redfish/v1/SessionService/Sessions") },
      },
      "/redfish/v1/Chassis": { Members: [link(chassis)] },
      "/redfish/v1/Systems": { Members: [link("/redfish/v1/Systems/1")] },
      "/redfish/v1/Systems/1": { Name: "hive", PowerState: "On", Status: { State: "Enabled", HealthRollup: "OK" } },
      [chassis]: {
        Name: "Chassis",
        Status: { State: "Enabled", Health: "OK" },
        Sensors: link(`${chassis}/Sensors`),
        Power: link(`${chassis}/Power`),
        ThermalSubsystem: link(`${chassis}/ThermalSubsystem`),
      },
      [`${chassis}/Sensors`]: { Members: sensors.map(([path]) => link(path)) },
      [`${chassis}/ThermalSubsystem`]: { Name: "Heat", Status: { Health: "OK" } },
      [`${chassis}/Power`]: {
        PowerControl: [
          {
            MemberId: "0",
            Name: "Whole machine",
            PowerConsumedWatts: Math.round(watts(second)),
            PowerCapacityWatts: 550,
            PowerMetrics: {
              IntervalInMin: 60,
              AverageConsumedWatts: Math.round(hour.reduce((all, n) => all + n, 0) / hour.length),
              MaxConsumedWatts: Math.round(Math.max(...hour)),
              MinConsumedWatts: Math.round(Math.min(...hour)),
            },
          },
        ],
      },
      ...Object.fromEntries(sensors),
    };
  };
}
