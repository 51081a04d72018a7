import { parentPort, workerData } from "node:worker_threads";
import { type DevicePorts, type WorldSender, serveDevices, startSenders } from "../standins/serve-world.ts";
import { World } from "../standins/world/world.ts";

export interface WorldWorkerData {
  readonly began: number;
  readonly offsetSeconds: number;
  readonly ports: DevicePorts;
  readonly socketPath: string;
}

/** What is said to the worker once the server takes what is sent. */
export interface SendersStart {
  readonly address: string;
  readonly tokens: Readonly<Record<WorldSender, string>>;
}

const { began, offsetSeconds, ports, socketPath } = workerData as WorldWorkerData;
const world = new World(began, offsetSeconds);
const devices = await serveDevices(world, ports, socketPath);
parentPort?.on("message", ({ address, tokens }: SendersStart) => void startSenders(world, address, tokens));
parentPort?.postMessage({ sha256: devices.sha256 });
