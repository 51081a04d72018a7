import { existsSync } from "node:fs";
import type { Device, DeviceOf } from "../../core/sources/kinds/device-kinds.ts";
import type { Credentials, Trust } from "../../core/sources/source.ts";
import { ContainerGatherer } from "./containers/container-gatherer.ts";
import { engineSocket } from "./containers/engine-socket.ts";
import type { DeviceGatherer } from "./device-gatherer.ts";
import { FlowGatherer } from "./flow/flow-gatherer.ts";
import { RedfishGatherer } from "./redfish/redfish-gatherer.ts";
import { SnmpGatherer } from "./snmp/snmp-gatherer.ts";
import { SnmpSession } from "./snmp/snmp-wire.ts";
import { machineFiles } from "./this-machine/machine-files.ts";
import { IpmiGatherer } from "./tools/ipmi-gatherer.ts";
import { WholePowerGatherer } from "./whole-power-gatherer.ts";
import { UpsGatherer } from "./tools/ups-gatherer.ts";

type Open<D extends Device> = (device: D, trust: Trust, credentials: Credentials) => DeviceGatherer;

/** What asks a device of each kind; where a device tells of its power in parts, the whole is told, too. */
const gatherers: { readonly [K in Device["kind"]]: Open<DeviceOf<K>> } = {
  snmp: withWholePower(
    (device, _, credentials) => new SnmpGatherer(new SnmpSession(device, snmpCredentials(credentials)), device),
  ),
  redfish: withWholePower((device, trust, credentials) => new RedfishGatherer(device, trust, credentials)),
  ipmi: withWholePower((device, _, credentials) => new IpmiGatherer(device, credentials)),
  ups: withWholePower((device) => new UpsGatherer(device)),
  flow: (device) => new FlowGatherer(device),
  containers: (device) =>
    new ContainerGatherer(
      device,
      device.socket === "" ? undefined : engineSocket(device.socket, device.timeoutMs),
      existsSync("/sys/fs/cgroup") ? machineFiles() : undefined,
    ),
};

export function openDevice(device: Device, trust: Trust, credentials: Credentials): DeviceGatherer {
  return (gatherers[device.kind] as Open<Device>)(device, trust, credentials);
}

function withWholePower<D extends Device>(open: Open<D>): Open<D> {
  return (device, trust, credentials) => new WholePowerGatherer(open(device, trust, credentials));
}

export function snmpCredentials(credentials: Credentials): Extract<Credentials, { kind: "community" | "snmp user" }> {
  return credentials.kind === "community" || credentials.kind === "snmp user"
    ? credentials
    : { kind: "community", community: "public" };
}
