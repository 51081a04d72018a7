import { deskLog } from "./devices/desk-log.ts";
import { hiveController, hiveRequest } from "./devices/hive.ts";
import { isLost, mastPage } from "./devices/mast-page.ts";
import { gateState, upsState } from "./devices/snmp-devices.ts";
import { StreamEngine, streamPage } from "./devices/stream-host.ts";
import { vaultPage } from "./devices/vault-page.ts";
import { startEngineServer } from "./protocols/engine-server.ts";
import { startPageServer } from "./protocols/page-server.ts";
import { startRedfishServer } from "./protocols/redfish-server.ts";
import { startSender } from "./protocols/sender.ts";
import { startSnmpAgent } from "./protocols/snmp-agent.ts";
import { type Happening, happenings } from "./world/happenings.ts";
import type { World } from "./world/world.ts";

/** What the devices of the sample world are asked with. */
export const worldSecrets = {
  gate: { community: "quayside" },
  ups: { user: "nubrel", authKey: "kestrel-on-the-quay", privKey: "lantern-in-the-fog" },
  hive: { user: "watch", password: "three lamps burning" },
} as const;

export type WorldSender = "hive" | "vault" | "stream" | "desk";
/** How often each sends. */
export const senderSeconds: Readonly<Record<WorldSender, number>> = { hive: 15, vault: 15, stream: 15, desk: 15 };

export interface DevicePorts {
  readonly gate: number;
  readonly ups: number;
  readonly hive: number;
  readonly mast: number;
}

export interface ServedDevices {
  readonly sha256: string;
  close(): Promise<void>;
}

const now = () => Date.now() / 1000;

/** Starts the devices that are asked: agents over UDP, a controller over HTTPS, a page, an engine at `socketPath`. */
export async function serveDevices(world: World, ports: DevicePorts, socketPath: string): Promise<ServedDevices> {
  const opened: (() => unknown)[] = [];
  const gate = await startSnmpAgent(ports.gate, worldSecrets.gate, gateState(world), now);
  opened.push(() => gate.close());
  const { user: name, authKey, privKey } = worldSecrets.ups;
  const ups = await startSnmpAgent(ports.ups, { user: { name, authKey, privKey } }, upsState(world), now);
  opened.push(() => ups.close());
  const controller = await startRedfishServer({
    port: ports.hive,
    name: "hive-controller",
    ...worldSecrets.hive,
    resources: hiveController(world),
    atSeconds: now,
  });
  opened.push(() => controller.close());
  const page = mastPage(world);
  const mast = await startPageServer(ports.mast, (second) => (isLost(second) ? undefined : page(second)), now);
  opened.push(() => mast.close());
  const engine = await startEngineServer(socketPath, new StreamEngine(world), now);
  opened.push(() => engine.close());
  return {
    sha256: controller.sha256,
    close: async () => {
      for (const close of opened.reverse()) await close();
    },
  };
}

/** Starts the machines that send, each with its token. */
export function startSenders(
  world: World,
  address: string,
  tokens: Readonly<Record<WorldSender, string>>,
): () => Promise<void> {
  const text = "text/plain; version=0.0.4";
  const log = deskLog(world);
  const senders: readonly (readonly [WorldSender, string, string, (second: number) => string])[] = [
    ["hive", "/v1/metrics", "application/json", hiveRequest(world)],
    ["vault", "/api/push/openmetrics", text, vaultPage(world)],
    ["stream", "/api/push/openmetrics", text, streamPage(world)],
    ["desk", "/api/push/csv", "text/csv", (second) => log([second])],
  ];
  const stops = senders.map(([name, path, contentType, body]) =>
    startSender({ address, path, token: tokens[name], contentType, everyMs: senderSeconds[name] * 1000, body }),
  );
  // The script that copies the archive tells that it has run.
  const told = (second: number) => happenings(world, second - 60, second).find(({ machine }) => machine === "vault");
  stops.push(
    startSender({
      address,
      path: "/api/events",
      token: tokens.vault,
      contentType: "application/json",
      everyMs: 60_000,
      body: (second) => eventText(told(second)),
    }),
  );
  return async () => {
    await Promise.all(stops.map((stop) => stop()));
  };
}

function eventText(happening: Happening | undefined): string {
  return happening
    ? JSON.stringify({
        fromMs: happening.from * 1000,
        toMs: happening.to * 1000,
        kind: happening.kind,
        text: happening.text,
      })
    : "";
}
