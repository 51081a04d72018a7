import { createSocket } from "node:dgram";
import { mkdirSync, mkdtempSync, rmSync } from "node:fs";
import { createServer } from "node:net";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { Worker } from "node:worker_threads";
import type { Logger } from "pino";
import type { FileSeries } from "../core/pages/file-series.ts";
import { happenings } from "../standins/world/happenings.ts";
import { insertEvents, listEvents } from "../server/events/event-rows.ts";
import type { RunningServer } from "../server/running-server.ts";
import type { Relay } from "../server/relay/there/relay.ts";
import type { PageIntake, SeriesReader } from "../server/sources/source-run.ts";
import type { DevicePorts, WorldSender } from "../standins/serve-world.ts";
import { World } from "../standins/world/world.ts";
import type { PastPart, PastStretch } from "./past-worker.ts";
import { type WorldSource, worldMachines, worldSources } from "./demo-sources.ts";
import { startMastRelay } from "./demo-relay.ts";
import { makeHistory } from "./demo-history.ts";
import { makeSampleDashboard } from "./demo-dashboard.ts";
import { readWorldState, type WorldState, writeWorldState } from "./demo-state.ts";
import { pastSeconds } from "./demo-past.ts";
import type { SendersStart } from "./world-worker.ts";

const senders: readonly WorldSender[] = ["hive", "vault", "stream", "desk"];
const tokenName = "sample world";

interface MirroredReader extends SeriesReader {
  readonly series: FileSeries[];
}

/** Runs the stand-ins on a thread of their own, makes their sources, and has the past written on another thread. */
export class DemoWorld {
  readonly #server: RunningServer;
  readonly #offsetSeconds: number;
  readonly #log: Logger;
  readonly #folder = mkdtempSync(join(tmpdir(), "nubrel-sample-"));
  readonly #intakes = new Map<WorldSource, PageIntake<MirroredReader>>();
  #devices: Worker | undefined;
  #relay: Relay | undefined;
  #past: Worker | undefined;
  #progress = 0;
  #stopped = false;

  constructor(server: RunningServer, offsetSeconds: number, log: Logger) {
    this.#server = server;
    this.#offsetSeconds = offsetSeconds;
    this.#log = log;
  }

  /** Share of the past that is written, 0 to 1. */
  get progress(): number {
    return this.#progress;
  }

  async start(): Promise<void> {
    const state = await readWorldState(this.#server.database, Date.now());
    const ports: DevicePorts = {
      gate: await freePort("udp"),
      ups: await freePort("udp"),
      hive: await freePort("tcp"),
      mast: await freePort("tcp"),
    };
    const socketPath = join(this.#folder, "engine.sock");
    const devices = new Worker(new URL("./world-worker.js", import.meta.url), {
      workerData: { began: state.began, offsetSeconds: this.#offsetSeconds, ports, socketPath },
    });
    this.#devices = devices;
    devices.on("error", (error) => this.#log.error({ err: error }, "the stand-ins ended"));
    const { sha256 } = await new Promise<{ sha256: string }>((resolve, reject) => {
      devices.once("message", resolve);
      devices.once("error", reject);
    });
    await this.#makeSources(ports, socketPath, sha256);
    await makeSampleDashboard(this.#server.database);
    devices.postMessage({ address: this.#server.address, tokens: await this.#makeTokens() } satisfies SendersStart);
    await this.#startRelay(state);
    this.#writePast(state);
  }

  async stop(): Promise<void> {
    this.#stopped = true;
    await this.#relay?.close();
    await this.#past?.terminate();
    await this.#devices?.terminate();
    rmSync(this.#folder, { recursive: true, force: true });
  }

  async #makeSources(ports: DevicePorts, socketPath: string, sha256: string): Promise<void> {
    const { sources, names } = this.#server;
    for (const { kind, settings, credentials } of Object.values(worldSources(ports, socketPath, sha256))) {
      const known = sources.all().find(({ source }) => source.name === settings.name);
      // What somebody has changed stays, except where the device is asked: its port is another after each start.
      if (known)
        await sources.change(
          known.source.id,
          {
            ...known.source,
            address: settings.address,
            trust: settings.trust,
            device:
              settings.device && known.source.device
                ? ({ ...known.source.device, ...pick(settings.device) } as typeof settings.device)
                : null,
          },
          credentials,
        );
      else if (!(await sources.wasRemoved(settings.name)))
        await sources.create(
          kind,
          { ...settings, askedFrom: settings.name === "mast" ? (this.#relaySource()?.id ?? null) : null },
          credentials,
        );
    }
    for (const [machine, name] of Object.entries(worldMachines))
      if (names.of(machine).friendlyName === "" && Object.keys(names.of(machine).tags).length === 0)
        await names.set(machine, name);
  }

  #relaySource() {
    return this.#server.sources.all().find(({ source }) => source.kind === "relay")?.source;
  }

  async #startRelay(state: WorldState): Promise<void> {
    const source = this.#relaySource();
    if (!source) return;
    const { token } = await this.#server.tokens.create({ name: tokenName, scope: "write", sourceId: source.id });
    const world = new World(state.began, this.#offsetSeconds);
    const folder = join(this.#folder, "relay");
    mkdirSync(folder);
    this.#relay = await startMastRelay(this.#server, token, { world, folder, log: this.#log });
  }

  async #makeTokens(): Promise<Readonly<Record<WorldSender, string>>> {
    const { sources, tokens } = this.#server;
    for (const { id, name, revokedAtMs } of await tokens.list())
      if (name === tokenName && revokedAtMs === null) await tokens.revoke(id);
    const made: Record<string, string> = {};
    for (const name of senders) {
      const run = sources.all().find(({ source }) => source.name === name);
      made[name] = run ? (await tokens.create({ name: tokenName, scope: "write", sourceId: run.source.id })).token : "";
    }
    return made as Record<WorldSender, string>;
  }

  /** Goes on where the last start ended; what passed while nobody ran it is written, too. */
  #writePast(state: WorldState): void {
    const now = Math.floor(Date.now() / 1000);
    const from = Math.max(
      now - pastSeconds,
      state.isWhole
        ? Math.max(state.doneSeconds, Math.floor((this.#server.lastSampleBeforeMs ?? 0) / 1000) + 15)
        : state.doneSeconds,
    );
    if (from >= now - 15) {
      this.#progress = 1;
      return;
    }
    const share = (until: number) => Math.max(0, 1 - (now - until) / pastSeconds);
    this.#progress = share(from);
    const past = new Worker(new URL("./past-worker.js", import.meta.url), {
      workerData: { began: state.began, offsetSeconds: this.#offsetSeconds, from, to: now - 5 },
    });
    this.#past = past;
    past.on("error", (error) => this.#log.error({ err: error }, "writing the past ended early"));
    past.on("message", (stretch: PastStretch) => {
      void this.#store(stretch, { ...state, doneSeconds: stretch.untilSeconds, isWhole: stretch.isLast })
        .then(async () => {
          if (stretch.isLast) await this.#makeHistory({ ...state, doneSeconds: stretch.untilSeconds, isWhole: true });
          this.#progress = stretch.isLast ? 1 : share(stretch.untilSeconds);
          past.postMessage("stored");
        })
        .catch((error) => {
          if (!this.#stopped) this.#log.error({ err: error }, "a part of the past was not stored");
        });
    });
  }

  /** Once, when the past is whole. */
  async #makeHistory(state: WorldState): Promise<void> {
    if (state.hasHistory) return;
    await makeHistory(this.#server, this.#log).catch((error) => {
      if (!this.#stopped) this.#log.error({ err: error }, "the sample world has no history of incidents");
    });
    await writeWorldState(this.#server.database, { ...state, hasHistory: true });
  }

  async #store({ fromSeconds, parts, events, isLast }: PastStretch, state: WorldState): Promise<void> {
    const { database, store, live } = this.#server;
    await Promise.all(parts.map((part) => this.#storePart(part)));
    const world = new World(state.began, this.#offsetSeconds);
    // After a restart the senders may have told of one that ended just then.
    const told = await listEvents(database, (fromSeconds - 86_400) * 1000, state.doneSeconds * 1000, "vault");
    const fresh = happenings(world, fromSeconds, state.doneSeconds).filter(
      ({ from, kind }) => !told.some((event) => event.kind === kind && event.fromMs === from * 1000),
    );
    await insertEvents(database, [
      ...events.map(({ atMs, kind, text, container }) => ({
        fromMs: atMs,
        toMs: atMs,
        kind,
        machine: "stream",
        text,
        tags: { container },
      })),
      ...fresh.map(({ from, to, ...told }) => ({ ...told, fromMs: from * 1000, toMs: to * 1000, tags: {} })),
    ]);
    await writeWorldState(database, state);
    live.publish({ kind: "samples", atMs: Date.now() });
    if (isLast) void store.maintain().catch((error) => this.#log.warn({ err: error }, "the past waits to be packed"));
  }

  async #storePart({ source, fresh, which, timeMs, value }: PastPart): Promise<void> {
    const { sources } = this.#server;
    const run = sources
      .all()
      .find((one) => one.source.name === source || (source === "playout" && one.source.kind === "this-machine"));
    if (!run) return;
    let intake = this.#intakes.get(source);
    if (!intake)
      this.#intakes.set(source, (intake = run.lend("past", () => ({ series: [], help: new Map() }) as MirroredReader)));
    intake.reader.series.push(...fresh);
    if (which.length === 0) return;
    await intake.table.write(
      intake.reader.series,
      { which, timeMs, value, length: which.length, found: which.length, leftOut: new Map() },
      sources.limits,
      { nowMs: Date.now(), ...(timeMs[0] !== undefined && { heardMs: timeMs[0] }) },
    );
  }
}

/** Where a device is asked; everything else of it is a person's. */
function pick(device: NonNullable<ReturnType<typeof worldSources>["gate"]["settings"]["device"]>): object {
  return device.kind === "containers" ? { socket: device.socket } : { host: device.host, port: device.port };
}

function freePort(kind: "udp" | "tcp"): Promise<number> {
  return new Promise((resolve, reject) => {
    if (kind === "udp") {
      const socket = createSocket("udp4").once("error", reject);
      socket.bind(0, "127.0.0.1", () => {
        const { port } = socket.address();
        socket.close(() => resolve(port));
      });
      return;
    }
    const server = createServer().once("error", reject);
    server.listen(0, "127.0.0.1", () => {
      const { port } = server.address() as { port: number };
      server.close(() => resolve(port));
    });
  });
}
