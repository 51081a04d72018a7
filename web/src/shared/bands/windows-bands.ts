import { type Band, of, one, scaled, tag } from "./band.ts";

const total = { tag: "instance", is: ["_Total"] } as const;
const parts = { tag: "instance", not: ["_Total"] } as const;
const perMachine = { lines: { per: ["machine"] } } as const;
const directions: Readonly<Record<string, string>> = {
  received: "received",
  sent: "sent",
  read: "read",
  written: "written",
};

/** Bands of what Windows' own counter logs give: their counters are rates and shares already. */
export const windowsBands: readonly Band[] = [
  {
    id: "windows-processor",
    title: "Processor",
    counters: ["windows.processor.percent_processor_time"],
    figure: {
      words: "processor busy",
      unit: "%",
      reading: (machine) =>
        scaled("windows.processor.percent_processor_time", machine, "value * 1", "%", {
          where: of(machine, total),
          ...perMachine,
          combine: "mean",
        }),
      commonLimit: 75,
    },
    views: [
      {
        id: "total",
        shows: "processor busy",
        split: "together",
        unit: "%",
        ceiling: 100,
        nameOf: () => "busy",
        reading: (machine) => one("windows.processor.percent_processor_time", machine, { where: of(machine, total) }),
      },
      {
        id: "cores",
        shows: "processor busy",
        split: "one line per core",
        unit: "%",
        ceiling: 100,
        nameOf: (line) => `core ${line.tags["instance"] ?? ""}`,
        reading: (machine) => one("windows.processor.percent_processor_time", machine, { where: of(machine, parts) }),
      },
    ],
  },
  {
    id: "windows-memory",
    title: "Memory",
    counters: ["windows.memory.available_bytes"],
    figure: {
      words: "memory available",
      unit: "By",
      reading: (machine) =>
        scaled("windows.memory.available_bytes", machine, "value * 1", "By", { ...perMachine, combine: "sum" }),
      commonLimit: 1024 ** 3,
    },
    views: [
      {
        id: "available",
        shows: "memory available",
        split: "together",
        unit: "By",
        nameOf: () => "available",
        reading: (machine) => one("windows.memory.available_bytes", machine),
      },
      {
        id: "pages",
        shows: "pages read and written",
        split: "together",
        unit: "/s",
        nameOf: () => "pages",
        reading: (machine) => one("windows.memory.pages_per_sec", machine),
      },
    ],
  },
  {
    id: "windows-disks",
    title: "Disks",
    counters: ["windows.physicaldisk.disk_read_bytes_per_sec"],
    figure: {
      words: "disk queue",
      unit: "1",
      reading: (machine) =>
        one("windows.physicaldisk.current_disk_queue_length", machine, { ...perMachine, combine: "max" }),
      commonLimit: 10,
    },
    views: [
      {
        id: "bytes",
        shows: "disk throughput",
        split: "read and written",
        unit: "By/s",
        nameOf: (line) => directions[line.of] ?? line.of,
        reading: (machine) => ({
          sentences: {
            read: {
              counter: "windows.physicaldisk.disk_read_bytes_per_sec",
              where: of(machine),
              ...perMachine,
              combine: "sum",
            },
            written: {
              counter: "windows.physicaldisk.disk_write_bytes_per_sec",
              where: of(machine),
              ...perMachine,
              combine: "sum",
            },
          },
        }),
      },
      {
        id: "queue",
        shows: "length of the disk queue",
        split: "one line per disk",
        unit: "1",
        nameOf: tag("instance"),
        reading: (machine) => one("windows.physicaldisk.current_disk_queue_length", machine),
      },
    ],
  },
  {
    id: "windows-volumes",
    title: "Volumes",
    counters: ["windows.logicaldisk.percent_free_space"],
    figure: {
      words: "fullest volume",
      unit: "%",
      reading: (machine) =>
        scaled("windows.logicaldisk.percent_free_space", machine, "100 - value", "%", {
          ...perMachine,
          combine: "min",
        }),
      commonLimit: 90,
    },
    views: [
      {
        id: "share",
        shows: "space used",
        split: "one line per volume",
        unit: "%",
        ceiling: 100,
        nameOf: tag("instance"),
        reading: (machine) => scaled("windows.logicaldisk.percent_free_space", machine, "100 - value", "%"),
      },
    ],
  },
  {
    id: "windows-network",
    title: "Network",
    counters: ["windows.network_interface.bytes_received_per_sec"],
    figure: {
      words: "network traffic",
      unit: "bit/s",
      reading: (machine) => ({
        sentences: {
          received: {
            counter: "windows.network_interface.bytes_received_per_sec",
            where: of(machine),
            ...perMachine,
            combine: "sum",
          },
          sent: {
            counter: "windows.network_interface.bytes_sent_per_sec",
            where: of(machine),
            ...perMachine,
            combine: "sum",
          },
        },
        figure: "(received + sent) * 8",
        unit: "bit/s",
      }),
      commonLimit: 100e6,
    },
    views: [
      {
        id: "received",
        shows: "network received",
        split: "one line per interface",
        unit: "bit/s",
        nameOf: tag("instance"),
        reading: (machine) => scaled("windows.network_interface.bytes_received_per_sec", machine, "value * 8", "bit/s"),
      },
      {
        id: "sent",
        shows: "network sent",
        split: "one line per interface",
        unit: "bit/s",
        nameOf: tag("instance"),
        reading: (machine) => scaled("windows.network_interface.bytes_sent_per_sec", machine, "value * 8", "bit/s"),
      },
    ],
  },
];
