import { WhichTells } from "../which-tells.ts";
import { existsSync } from "node:fs";
import type { Emit } from "../../../core/counters/counter.ts";
import { SocketBytes } from "../../../core/formats/linux/socket-bytes.ts";
import type { Mount } from "../../../core/formats/linux/proc-mounts.ts";
import { readBtrfs } from "../../../core/formats/storage/btrfs.ts";
import { readZfsList, readZpools } from "../../../core/formats/storage/pools.ts";
import { drivesOfScan, readSmartctl } from "../../../core/formats/storage/smartctl.ts";
import { readDomstats } from "../../../core/formats/virtual-machines/domstats.ts";
import type { Reading } from "../../../core/counters/reading.ts";
import { runTool, type ToolAnswer } from "../tools/run-tool.ts";

/** Runs a program with a bound of time; an answer that fails is as if the program were not there. */
export type Run = (program: string, ...args: readonly string[]) => Promise<ToolAnswer | undefined>;

const timeoutMs = 20_000;
const minuteMs = 60_000;
/** Where Debian and others put them. */
const folders = ["/usr/bin", "/usr/sbin", "/bin", "/sbin", "/usr/local/bin", "/usr/local/sbin"];

const run: Run = async (program, ...args) => {
  if (!folders.some((folder) => existsSync(`${folder}/${program}`))) return undefined;
  return await runTool(program, args, { timeoutMs }).catch(() => undefined);
};

/** Programs that tell about guests, pools and drives, and how often each is asked. */
const asked: readonly {
  readonly name: string;
  readonly everyMs: number;
  readonly ask: (run: Run, mounts: readonly Mount[], emit: Emit, sockets: SocketBytes) => Promise<void>;
}[] = [
  { name: "guests", everyMs: 15_000, ask: askGuests },
  { name: "pools", everyMs: minuteMs, ask: askPools },
  { name: "drives", everyMs: 20 * minuteMs, ask: askDrives },
  { name: "sockets", everyMs: 15_000, ask: askSockets },
];

/**
 * Asks the programs beside the gathering: one that hangs on a disk or a network holds up nobody, and is not asked again
 * while it hangs.
 * What they said is given once, with the next gathering.
 */
export class MachineTools {
  readonly #run: Run;
  readonly #sockets = new SocketBytes();
  readonly #due = new Map<string, number>();
  readonly #running = new Set<string>();
  readonly #tells = new WhichTells();
  #ready: Reading[] = [];
  /** What was asked for between. */
  readonly #hasty: Reading[] = [];

  constructor(runner: Run = run) {
    this.#run = runner;
  }

  /** What has come since; and asks what is due. `mounts` are those of btrfs. */
  take(monotonicMs: number, mounts: readonly Mount[]): readonly Reading[] {
    for (const { name, everyMs, ask } of asked) {
      if (this.#running.has(name) || monotonicMs < (this.#due.get(name) ?? Number.NEGATIVE_INFINITY)) continue;
      this.#due.set(name, monotonicMs + everyMs);
      this.#running.add(name);
      const readings: Reading[] = [];
      void ask(this.#run, mounts, (counter, tags, value) => readings.push({ counter, tags, value }), this.#sockets)
        .catch(() => {}) // what cannot be read tells nothing
        .then(() => {
          for (const { counter } of readings) this.#tells.note(name, counter);
          this.#ready.push(...readings);
        })
        .finally(() => this.#running.delete(name));
    }
    return this.#ready.splice(0);
  }

  /** What has come since of these counters; and asks at once for them what is known to tell of them. */
  takeOnly(only: ReadonlySet<string>, mounts: readonly Mount[]): readonly Reading[] {
    for (const { name, ask } of asked) {
      if (this.#running.has(name) || !this.#tells.has(name) || !this.#tells.may(name, only)) continue;
      this.#running.add(name);
      void ask(this.#run, mounts, (counter, tags, value) => this.#hasty.push({ counter, tags, value }), this.#sockets)
        .catch(() => {})
        .finally(() => this.#running.delete(name));
    }
    return this.#hasty.splice(0);
  }
}

async function askGuests(run: Run, _mounts: readonly Mount[], emit: Emit): Promise<void> {
  const answer = await run("virsh", "-r", "domstats", "--raw");
  if (answer?.code === 0) readDomstats(answer.out, emit);
}

async function askPools(run: Run, mounts: readonly Mount[], emit: Emit): Promise<void> {
  const pools = await run("zpool", "list", "-H", "-p", "-o", "name,size,allocated,free,health,fragmentation");
  if (pools?.code === 0) {
    const status = await run("zpool", "status", "-p");
    readZpools(pools.out, status?.code === 0 ? status.out : undefined, emit);
  }
  const datasets =
    pools?.code === 0
      ? await run("zfs", "list", "-H", "-p", "-t", "filesystem,volume", "-o", "name,used,available")
      : undefined;
  if (datasets?.code === 0) readZfsList(datasets.out, emit);
  for (const { mountpoint, options } of mounts) {
    const usage = await run("btrfs", "filesystem", "usage", "-b", mountpoint);
    const stats = await run("btrfs", "--format", "json", "device", "stats", mountpoint);
    readBtrfs(
      { options, ...(usage?.code === 0 && { usage: usage.out }), ...(stats?.code === 0 && { stats: stats.out }) },
      mountpoint,
      emit,
    );
  }
}

async function askSockets(run: Run, _mounts: readonly Mount[], emit: Emit, sockets: SocketBytes): Promise<void> {
  const answer = await run("ss", "-tinHO", "state", "established");
  if (answer?.code === 0) sockets.read(answer.out, emit);
}

/** A drive that sleeps is left asleep; smartctl's exit code has a bit for each kind of trouble, so its text counts. */
async function askDrives(run: Run, _mounts: readonly Mount[], emit: Emit): Promise<void> {
  const scan = await run("smartctl", "--scan", "--json");
  if (!scan || scan.out.trim() === "") return;
  for (const { name, type } of drivesOfScan(scan.out)) {
    const answer = await run(
      "smartctl",
      "--json=c",
      "--nocheck=standby",
      "--health",
      "--attributes",
      "--device",
      type,
      name,
    );
    if (answer && answer.out.trim() !== "") readSmartctl(answer.out, name.replace("/dev/", ""), emit);
  }
}
