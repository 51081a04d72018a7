import type { PickedNumber } from "../core/formats/snmp/picked-numbers.ts";
import type { ContainersDevice } from "../core/sources/kinds/containers.ts";
import type { SourceKind } from "../core/sources/kinds/source-kinds.ts";
import type { Credentials, SourceSettings } from "../core/sources/source.ts";
import { type DevicePorts, senderSeconds, worldSecrets } from "../standins/serve-world.ts";

export type WorldSource =
  | "playout"
  | "gate"
  | "ups"
  | "hive controller"
  | "hive"
  | "vault"
  | "stream"
  | "containers of stream"
  | "mast relay"
  | "mast"
  | "desk";

/** Two variables of the router that nobody has described, picked by number as a person would. */
export const gateNumbers: readonly PickedNumber[] = [
  {
    oid: "1.3.6.1.4.1.32473.2.1.0",
    counter: "gate.connections",
    tags: {},
    kind: "by type",
    factor: 1,
    unit: "{connection}",
  },
  {
    oid: "1.3.6.1.4.1.32473.2.2.0",
    counter: "gate.radio_link.quality",
    tags: {},
    kind: "by type",
    factor: 0.01,
    unit: "1",
  },
];

export function snmpModulesOf(device: "gate" | "ups"): readonly string[] {
  return device === "gate" ? ["system", "interfaces", "host resources", "sensors"] : ["system", "UPS"];
}

export const containersDevice = (socket: string): ContainersDevice => ({
  kind: "containers",
  socket,
  timeoutMs: 5000,
  rules: [],
  labels: ["role"],
  command: false,
});

interface WorldSourceSettings {
  readonly kind: SourceKind;
  readonly settings: SourceSettings;
  readonly credentials?: Credentials;
}

/** What a person would have entered for the sample world's sources; `playout` is the machine that Nubrel runs on. */
// biome-ignore lint/complexity/noExcessiveLinesPerFunction: one table of sources
export function worldSources(
  ports: DevicePorts,
  socketPath: string,
  sha256: string,
): Readonly<Record<Exclude<WorldSource, "playout">, WorldSourceSettings>> {
  const base = (name: string, machine: string): SourceSettings => ({
    name,
    machine,
    intervalMs: 15_000,
    tellsSilence: true,
    address: null,
    trust: { kind: "system" },
    device: null,
    tags: {},
    take: [],
    csv: null,
  });
  const host = "127.0.0.1";
  const { user, authKey, privKey } = worldSecrets.ups;
  return {
    gate: {
      kind: "snmp",
      settings: {
        ...base("gate", "gate"),
        device: {
          kind: "snmp",
          host,
          port: ports.gate,
          version: "2c",
          timeoutMs: 5000,
          modules: snmpModulesOf("gate"),
          numbers: gateNumbers,
        },
      },
      credentials: { kind: "community", ...worldSecrets.gate },
    },
    ups: {
      kind: "snmp",
      settings: {
        ...base("ups", "ups"),
        device: {
          kind: "snmp",
          host,
          port: ports.ups,
          version: "3",
          timeoutMs: 5000,
          modules: snmpModulesOf("ups"),
          numbers: [],
        },
      },
      credentials: {
        kind: "snmp user",
        user,
        level: "sealed",
        authProtocol: "sha256",
        authKey,
        privProtocol: "aes",
        privKey,
      },
    },
    "hive controller": {
      kind: "redfish",
      settings: {
        ...base("hive controller", "hive"),
        trust: { kind: "fingerprint", sha256 },
        device: { kind: "redfish", host, port: ports.hive, timeoutMs: 10_000 },
      },
      credentials: { kind: "basic", ...worldSecrets.hive },
    },
    hive: { kind: "push", settings: { ...base("hive", "hive"), intervalMs: senderSeconds.hive * 1000 } },
    vault: { kind: "collector", settings: { ...base("vault", "vault"), intervalMs: senderSeconds.vault * 1000 } },
    stream: { kind: "collector", settings: { ...base("stream", "stream"), intervalMs: senderSeconds.stream * 1000 } },
    "containers of stream": {
      kind: "containers",
      settings: { ...base("containers of stream", "stream"), device: containersDevice(socketPath) },
    },
    "mast relay": {
      kind: "relay",
      settings: { ...base("mast relay", "mast"), backDays: 60 },
    },
    // asked from there
    mast: {
      kind: "pull",
      settings: {
        ...base("mast", "mast"),
        address: { scheme: "http", host, port: ports.mast, path: "/metrics", timeoutMs: 5000 },
      },
    },
    desk: { kind: "push", settings: { ...base("desk", "desk"), intervalMs: senderSeconds.desk * 1000 } },
  };
}

/** What its people call the machines, and where they stand. */
export const worldMachines: Readonly<
  Record<string, { readonly friendlyName: string; readonly tags: Readonly<Record<string, string>> }>
> = {
  playout: { friendlyName: "", tags: { site: "studio", role: "air" } },
  desk: { friendlyName: "", tags: { site: "studio", role: "office" } },
  hive: { friendlyName: "", tags: { site: "rack", role: "guests" } },
  vault: { friendlyName: "", tags: { site: "rack", role: "storage" } },
  stream: { friendlyName: "", tags: { site: "rack", role: "air" } },
  mast: { friendlyName: "", tags: { site: "mast", role: "air" } },
  gate: { friendlyName: "", tags: { site: "rack", role: "network" } },
  ups: { friendlyName: "", tags: { site: "rack", role: "power" } },
};
