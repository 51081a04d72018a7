import type { Line, Sentence } from "../../../../core/reading/document.ts";
import type { OpenReading } from "../../sentence/reading-address.ts";
import { type Band, of, tag, withDirection } from "./band.ts";

/** What runs on a machine: also the tag that names it and the first part of its counters' names. */
export type PartKind = "guest" | "container";

/** The bands of one guest or container, in the order of a machine's. */
// biome-ignore lint/complexity/noExcessiveLinesPerFunction: one table of bands
export function partBands(kind: PartKind, part: string): readonly Band[] {
  const where = (machine: string) => of(machine, { tag: kind, is: [part] });
  const counter = (name: string) => `${kind}.${name}`;
  const one =
    (name: string, sentence: Partial<Sentence> = {}) =>
    (machine: string): OpenReading => ({
      sentences: { value: { counter: counter(name), where: where(machine), ...sentence } },
    });
  const scaled =
    (name: string, figure: string, unit: string, sentence: Partial<Sentence> = {}) =>
    (machine: string): OpenReading => ({ ...one(name, sentence)(machine), figure, unit });
  const together = { lines: { per: ["machine", kind] }, combine: "sum" } as const;
  const byDirection = { lines: { per: ["machine", kind, "direction"] }, combine: "sum" } as const;
  const direction = (line: Line) => withDirection("none")(line);
  const ofLimit = (machine: string): OpenReading => ({
    sentences: {
      used: { counter: counter("memory.usage"), where: where(machine), ...together },
      size: { counter: counter("memory.limit"), where: where(machine), ...together },
    },
    figure: "used / size * 100",
    unit: "%",
  });
  const bands: readonly Band[] = [
    {
      id: "processor",
      title: "Processor",
      counters: [counter("cpu.time")],
      figure: {
        words: "of one processor",
        unit: "%",
        reading: scaled("cpu.time", "value * 100", "%", together),
        commonLimit: 90,
      },
      views: [
        ...(kind === "container"
          ? [
              {
                id: "modes",
                shows: "processor used",
                split: "by mode, stacked",
                unit: "%",
                stacked: true,
                nameOf: tag("mode"),
                reading: scaled("cpu.time", "value * 100", "%"),
              },
            ]
          : []),
        {
          id: "total",
          shows: "processor used",
          split: "together",
          unit: "%",
          nameOf: () => "busy",
          reading: scaled("cpu.time", "value * 100", "%", together),
        },
        ...(kind === "container"
          ? [
              {
                id: "throttled",
                shows: "time held back by its allowance",
                split: "together",
                unit: "%",
                needs: "container.cpu.throttled_time",
                nameOf: () => "held back",
                reading: scaled("cpu.throttled_time", "value * 100", "%"),
              },
            ]
          : []),
      ] as unknown as Band["views"],
    },
    {
      id: "memory",
      title: "Memory",
      counters: [counter("memory.usage")],
      figure: { words: "memory of what it may use", unit: "%", reading: ofLimit, commonLimit: 90 },
      views: [
        {
          id: "usage",
          shows: "memory",
          split: "used, and what it may use",
          unit: "By",
          nameOf: (line) => (line.of === "size" ? "may use" : "used"),
          reading: (machine) => ({ sentences: ofLimit(machine).sentences }),
        },
        ...(kind === "container"
          ? [
              {
                id: "kinds",
                shows: "memory",
                split: "own and cache, stacked",
                unit: "By",
                stacked: true,
                needs: "container.memory.cache",
                nameOf: (line: Line) => (line.of === "cache" ? "cache" : "its own"),
                reading: (machine: string) => ({
                  sentences: {
                    own: { counter: "container.memory.rss", where: where(machine), ...together },
                    cache: { counter: "container.memory.cache", where: where(machine), ...together },
                  },
                }),
              },
              {
                id: "activity",
                shows: "memory by last use",
                split: "active and inactive",
                unit: "By",
                needs: "container.memory.activity",
                nameOf: tag("state"),
                reading: one("memory.activity"),
              },
              {
                id: "faults",
                shows: "page faults",
                split: "minor and major",
                unit: "/s",
                needs: "container.paging.faults",
                nameOf: tag("type"),
                reading: scaled("paging.faults", "value * 1", "/s"),
              },
            ]
          : []),
      ],
    },
    {
      id: "disks",
      title: "Disks",
      counters: [counter("disk.io")],
      figure: {
        words: "disk throughput",
        unit: "By/s",
        reading: scaled("disk.io", "value * 1", "By/s", together),
        commonLimit: 50e6,
      },
      views: [
        {
          id: "bytes",
          shows: "disk throughput",
          split: "read and written",
          unit: "By/s",
          nameOf: direction,
          reading: one("disk.io", byDirection),
        },
        {
          id: "operations",
          shows: "disk operations",
          split: "read and written",
          unit: "/s",
          needs: counter("disk.operations"),
          nameOf: direction,
          reading: scaled("disk.operations", "value * 1", "/s", byDirection),
        },
      ],
    },
    {
      id: "network",
      title: "Network",
      counters: [counter("network.io")],
      figure: {
        words: "network traffic",
        unit: "bit/s",
        reading: scaled("network.io", "value * 8", "bit/s", together),
        commonLimit: 100e6,
      },
      views: [
        {
          id: "bits",
          shows: "network traffic",
          split: "received and sent",
          unit: "bit/s",
          nameOf: direction,
          reading: scaled("network.io", "value * 8", "bit/s", byDirection),
        },
        ...(kind === "container"
          ? [
              {
                id: "packets",
                shows: "network packets",
                split: "received and sent",
                unit: "/s",
                needs: counter("network.packet.count"),
                nameOf: direction,
                reading: scaled("network.packet.count", "value * 1", "/s", byDirection),
              },
            ]
          : []),
      ],
    },
    {
      id: "state",
      title: "State",
      counters: [counter("state.running")],
      figure: {
        words: "runs, 1 is yes",
        unit: "1",
        reading: one("state.running", { ...together, of_every: "last" }),
        commonLimit: 1,
      },
      views: [
        {
          id: "running",
          shows: "whether it runs, 1 is yes",
          split: "together",
          unit: "1",
          nameOf: () => "runs",
          reading: one("state.running", { ...together, of_every: "min" }),
        },
        ...(kind === "container"
          ? [
              {
                id: "healthy",
                shows: "its own health check, 1 is well",
                split: "together",
                unit: "1",
                needs: counter("healthy"),
                nameOf: () => "healthy",
                reading: one("healthy", { ...together, of_every: "min" }),
              },
              {
                id: "processes",
                shows: "processes",
                split: "together",
                unit: "1",
                needs: counter("process.count"),
                nameOf: () => "processes",
                reading: scaled("process.count", "value * 1", "1", together),
              },
              {
                id: "restarts",
                shows: "restarts by the engine",
                split: "in each step",
                unit: "1",
                needs: counter("restarts"),
                nameOf: () => "restarts",
                reading: scaled("restarts", "value * 1", "1", { ...together, as: "increase" }),
              },
            ]
          : []),
      ],
    },
  ];
  return bands;
}
