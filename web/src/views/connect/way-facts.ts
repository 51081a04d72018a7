/** What a person wants to know before connecting something so. */
export interface WayFacts {
  /** What there will be to see. */
  readonly sees: readonly string[];
  /** What is needed on the other side. */
  readonly needs: string;
  /** What happens while this server is away, or how it ends. */
  readonly keeps: string;
}

const host = [
  "processor by mode and core, load, pressure",
  "memory and its parts, swap",
  "disks, filesystems, network by interface",
  "temperatures, the processes that use most",
];
const collector = {
  needs: "sh, awk, and curl or wget, which a Linux machine has; nothing is listened at there",
  keeps:
    "While this server is away it keeps up to 64 MiB and sends it later with its own times. sudo sh nubrel-collector remove takes all of it away.",
} as const;
const sent = {
  needs: "a program that can do HTTP; its token may only write, and only for this source",
  keeps: "Every request is answered when it is durable: what was found, what was taken, and why the rest was not.",
} as const;
const asked = "Nothing is installed there. It is asked at an interval, and not while this server is away.";

/** By the id of a way to connect. */
export const wayFacts: Readonly<Record<string, WayFacts>> = {
  linux: { sees: host, ...collector },
  containers: {
    sees: [...host, "every container: processor, memory, disk, network, by its control group"],
    ...collector,
  },
  hypervisor: { sees: [...host, "every guest: processor, memory, its disks and its network"], ...collector },
  storage: { sees: [...host, "pools, arrays and drives, with their health"], ...collector },
  windows: {
    sees: ["any counter that the machine has, chosen by category and instance on the source's page"],
    needs: "a command prompt of an administrator; typeperf and curl, which Windows ships",
    keeps: "What cannot be sent is kept there and sent with the next file.",
  },
  controller: {
    sees: ["what the machine draws", "temperatures, fans, voltages", "the health of its parts"],
    needs: "Redfish switched on, and a user with the right to read and no other",
    keeps: asked,
  },
  "old-controller": {
    sees: ["what the machine draws, where the controller tells it", "temperatures, fans, voltages"],
    needs: "IPMI over LAN switched on there, and ipmitool on the machine that this server runs on",
    keeps: asked,
  },
  network: {
    sees: [
      "traffic by interface",
      "processor, memory, sensors, where the device tells them",
      "any other number that you pick from the walk",
    ],
    needs: "SNMP switched on, version 3 if it has that, and this machine's address on its access list",
    keeps: asked,
  },
  ups: {
    sees: ["charge, and how long it would last", "load, power, voltages", "whether it runs on battery"],
    needs: "a card with SNMP, and this machine's address on its access list",
    keeps: asked,
  },
  "ups-cable": {
    sees: ["charge, and how long it would last", "load, power, voltages", "whether it runs on battery"],
    needs: "the program that upsc asks, at the machine with the cable, and nut-client where this server runs",
    keeps: asked,
  },
  engine: {
    sees: [
      "each container by name, image and label",
      "its health and restarts",
      "processor, memory, disk, network of each",
    ],
    needs: "the engine's socket, readable for this server",
    keeps: asked,
  },
  flows: {
    sees: ["traffic by application protocol, stacked to the total", "traffic by interface"],
    needs: "the export of flows switched on at the router, towards this machine's address and port",
    keeps: "Datagrams that come while this server is away are lost; the router's own numbers say how many.",
  },
  site: {
    sees: [...host, "whatever is asked from there: SNMP, Redfish, IPMI, pages, engines"],
    needs: "a machine there with Node.js and Nubrel, which has no database there and listens at nothing",
    keeps:
      "While this server or the link is away it goes on gathering, keeps up to 1 GiB, and sends it later with its own times.",
  },
  page: {
    sees: ["what the page says, in its own units; what is taken of it is chosen with a preview"],
    needs: "a page in OpenMetrics 1.0 or the older text form, and its address",
    keeps: asked,
  },
  otlp: {
    sees: [
      "what the application measures: levels, totals, distributions",
      "a host's counters as those of any other machine",
    ],
    ...sent,
  },
  script: { sees: ["any number of your own, under a name of your own"], ...sent },
  tables: { sees: ["each column of values as a counter, told apart by the columns of words"], ...sent },
};
