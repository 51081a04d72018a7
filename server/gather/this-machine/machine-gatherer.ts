import type { Emit } from "../../../core/counters/counter.ts";
import { emitFilesystem, type Statfs } from "../../../core/formats/linux/filesystem-space.ts";
import { powercapZone, type PowercapZone, readPowercap } from "../../../core/formats/linux/powercap.ts";
import { readProcDiskstats } from "../../../core/formats/linux/proc-diskstats.ts";
import { readProcMeminfo } from "../../../core/formats/linux/proc-meminfo.ts";
import { type Mount, parseProcMounts } from "../../../core/formats/linux/proc-mounts.ts";
import { readProcNetDev } from "../../../core/formats/linux/proc-net-dev.ts";
import { readProcNetTcp } from "../../../core/formats/linux/proc-net-tcp.ts";
import {
  readPressure,
  readProcLoadavg,
  readProcUptime,
  readTemperature,
} from "../../../core/formats/linux/proc-small.ts";
import { readProcStat } from "../../../core/formats/linux/proc-stat.ts";
import { readProcVmstat } from "../../../core/formats/linux/proc-vmstat.ts";
import {
  emitTopProcesses,
  pageBytesOf,
  type ProcessStat,
  parseProcessStat,
  processKey,
  ticksOf,
} from "../../../core/formats/linux/process-stat.ts";
import type { Reading } from "../../../core/counters/reading.ts";
import { readMdstat } from "../../../core/formats/storage/mdstat.ts";
import { WhichTells } from "../which-tells.ts";
import type { MachineFiles } from "./machine-files.ts";
import type { MachineTools } from "./machine-tools.ts";

/** Filesystems change slowly and asking may wait for a disk: every sixth gathering asks, the others repeat nothing. */
const spaceEvery = 6;
const spaceTimeoutMs = 2000;
/** Devices and sensors are looked for anew this often, in gatherings. */
const lookEvery = 60;

const plainFiles: readonly (readonly [path: string, read: (text: string, emit: Emit) => void])[] = [
  ["/proc/stat", readProcStat],
  ["/proc/meminfo", readProcMeminfo],
  ["/proc/vmstat", readProcVmstat],
  ["/proc/loadavg", readProcLoadavg],
  ["/proc/uptime", readProcUptime],
  ["/proc/mdstat", readMdstat],
  ...["cpu", "memory", "io"].map(
    (resource) =>
      [`/proc/pressure/${resource}`, (text: string, emit: Emit) => readPressure(resource, text, emit)] as const,
  ),
];

/** Gathers one Linux machine. It remembers only what ranking processes needs: the ticks of the gathering before. */
export class MachineGatherer {
  readonly #files: MachineFiles;
  readonly #pageBytes: number;
  readonly #tools: MachineTools | undefined;
  #pools: readonly Mount[] = [];
  #round = 0;
  #disks: ReadonlySet<string> = new Set();
  /** Network interfaces with a device behind them. */
  #interfaces: ReadonlySet<string> = new Set();
  #sensors: readonly (readonly [name: string, path: string])[] = [];
  #zones: readonly (readonly [zone: PowercapZone, path: string])[] = [];
  readonly #tells = new WhichTells();
  #ticksBefore: ReadonlyMap<string, number> = new Map();
  /** Mountpoints whose last question is still open: a hung disk is asked once, not every time. */
  readonly #asked = new Set<string>();

  /** `tools` are left out where the files are not this machine's own. */
  constructor(files: MachineFiles, tools?: MachineTools) {
    this.#files = files;
    this.#pageBytes = pageBytesOf(files.read("/proc/self/smaps"));
    this.#tools = tools;
  }

  /** Everything, or `only` what tells of these counters. */
  async gather(only?: ReadonlySet<string>): Promise<readonly Reading[]> {
    const readings: Reading[] = [];
    const emitOf =
      (part: string): Emit =>
      (counter, tags, value, falls) => {
        if (!only) this.#tells.note(part, counter);
        readings.push({ counter, tags, value, ...(falls !== undefined && { falls }) });
      };
    if (this.#round % lookEvery === 0 && (!only || this.#round === 0)) this.#look();
    const readFile = (path: string, read: (text: string, emit: Emit) => void) => {
      if (!this.#tells.may(path, only)) return;
      const text = this.#files.read(path);
      if (!only) this.#tells.asked(path);
      if (text !== undefined) read(text, emitOf(path));
    };
    for (const [path, read] of plainFiles) readFile(path, read);
    readFile("/proc/net/dev", (text, emit) => readProcNetDev(text, emit, (name) => this.#interfaces.has(name)));
    readFile("/proc/diskstats", (text, emit) => readProcDiskstats(text, emit, (name) => this.#disks.has(name)));
    for (const [name, path] of this.#sensors) readFile(path, (text, emit) => readTemperature(name, text, emit));
    for (const [zone, path] of this.#zones) readFile(path, (text, emit) => readPowercap(zone, text, emit));
    if (this.#tells.may("processes", only)) this.#gatherProcesses(emitOf("processes"));
    const isSpaceDue = only !== undefined || this.#round % spaceEvery === 0;
    if (isSpaceDue && this.#tells.may("connections", only)) this.#gatherConnections(emitOf("connections"));
    if (isSpaceDue && this.#tells.may("space", only)) await this.#gatherSpace(emitOf("space"));
    if (isSpaceDue && !only) for (const part of ["connections", "space", "processes"]) this.#tells.asked(part);
    if (only) return this.#tools ? [...readings, ...this.#tools.takeOnly(only, this.#pools)] : readings;
    if (this.#tools) readings.push(...this.#tools.take(performance.now(), this.#pools));
    this.#round++;
    return readings;
  }

  #gatherConnections(emit: Emit): void {
    const tables = ["/proc/net/tcp", "/proc/net/tcp6"].map((path) => this.#files.read(path));
    if (tables.some((text) => text !== undefined))
      readProcNetTcp(
        tables.map((text) => text ?? ""),
        emit,
      );
  }

  /**
   * Whole physical or virtual disks have a `device` below /sys/block; loop, RAM, array and mapped devices stand on
   * others and have none.
   */
  #look(): void {
    this.#disks = new Set(
      this.#files.list("/sys/block").filter((name) => this.#files.list(`/sys/block/${name}/device`).length > 0),
    );
    this.#interfaces = new Set(
      this.#files.list("/sys/class/net").filter((name) => this.#files.list(`/sys/class/net/${name}/device`).length > 0),
    );
    this.#sensors = findSensors(this.#files);
    this.#zones = findZones(this.#files);
  }

  #gatherProcesses(emit: Emit): void {
    const now: ProcessStat[] = [];
    const states = { sleeping: 0, stopped: 0, zombies: 0 };
    for (const name of this.#files.list("/proc")) {
      const first = name.charCodeAt(0);
      if (first < 48 || first > 57) continue;
      const text = this.#files.read(`/proc/${name}/stat`);
      const stat = text === undefined ? undefined : parseProcessStat(text);
      if (!stat) continue;
      now.push(stat);
      if (stat.state === "S" || stat.state === "I") states.sleeping++;
      else if (stat.state === "T" || stat.state === "t") states.stopped++;
      else if (stat.state === "Z") states.zombies++;
    }
    if (now.length === 0) return;
    for (const [state, count] of Object.entries(states)) emit("system.process.count", { state }, count);
    emitTopProcesses(now, this.#ticksBefore, emit, { pageBytes: this.#pageBytes });
    this.#ticksBefore = new Map(now.map((stat) => [processKey(stat), ticksOf(stat)]));
  }

  async #gatherSpace(emit: Emit): Promise<void> {
    const mounts = parseProcMounts(this.#files.read("/proc/self/mounts") ?? this.#files.read("/proc/mounts") ?? "");
    this.#pools = mounts.filter(({ type }) => type === "btrfs");
    const answers = await Promise.all(
      mounts
        .filter((mount) => !this.#asked.has(mount.mountpoint))
        .map(async (mount) => ({ mount, space: await this.#space(mount.mountpoint) })),
    );
    for (const { mount, space } of answers) if (space) emitFilesystem(mount, space, emit);
  }

  async #space(mountpoint: string): Promise<Statfs | undefined> {
    this.#asked.add(mountpoint);
    const answer = this.#files.space(mountpoint).finally(() => this.#asked.delete(mountpoint));
    let timer: NodeJS.Timeout | undefined;
    const late = new Promise<undefined>((resolve) => {
      timer = setTimeout(() => resolve(undefined), spaceTimeoutMs);
    });
    return Promise.race([answer, late]).finally(() => clearTimeout(timer));
  }
}

/** Temperatures of /sys/class/hwmon by the sensor's own label; of thermal zones where there is no hwmon. */
function findSensors(files: MachineFiles): readonly (readonly [string, string])[] {
  const found: [string, string][] = [];
  for (const chip of files.list("/sys/class/hwmon")) {
    const folder = `/sys/class/hwmon/${chip}`;
    const chipName = files.read(`${folder}/name`)?.trim() || chip;
    for (const file of files.list(folder)) {
      const input = /^(temp\d+)_input$/.exec(file)?.[1];
      if (input)
        found.push([`${chipName} ${files.read(`${folder}/${input}_label`)?.trim() || input}`, `${folder}/${file}`]);
    }
  }
  if (found.length > 0) return found;
  return files
    .list("/sys/class/thermal")
    .filter((zone) => zone.startsWith("thermal_zone"))
    .map((zone) => [
      `${files.read(`/sys/class/thermal/${zone}/type`)?.trim() || "zone"} ${zone.slice(12)}`,
      `/sys/class/thermal/${zone}/temp`,
    ]);
}

/** Zones that count energy, of processors and of the whole platform; a kernel that shows none to this account has none. */
function findZones(files: MachineFiles): readonly (readonly [PowercapZone, string])[] {
  const found: [PowercapZone, string][] = [];
  const names = new Map<string, string>();
  for (const folder of [...files.list("/sys/class/powercap")].sort()) {
    const [, control, numbers] = /^([\w-]+):([\d:]+)$/.exec(folder) ?? [];
    // The same counters behind another way of access would be told twice.
    if (!numbers || control?.endsWith("-mmio")) continue;
    const path = `/sys/class/powercap/${folder}`;
    const zone = powercapZone(
      files.read(`${path}/name`),
      files.read(`${path}/max_energy_range_uj`),
      names.get(`${control}:${numbers.replace(/:?\d+$/, "")}`),
    );
    if (!zone) continue;
    names.set(folder, zone.name);
    if (files.read(`${path}/energy_uj`) !== undefined) found.push([zone, `${path}/energy_uj`]);
  }
  return found;
}
