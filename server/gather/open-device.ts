import { existsSync } from "node:fs";
import type { Device } from "../../core/sources/device.ts";
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

/** What asks a device of this kind; of its power the whole is told, too. */
export function openDevice(device: Device, trust: Trust, credentials: Credentials): DeviceGatherer {
  return device.kind === "containers" || device.kind === "flow"
    ? openKind(device, trust, credentials)
    : new WholePowerGatherer(openKind(device, trust, credentials));
}

function openKind(device: Device, trust: Trust, credentials: Credentials): DeviceGatherer {
  switch (device.kind) {
    case "snmp":
      return new SnmpGatherer(new SnmpSession(device, snmpCredentials(credentials)), device);
    case "redfish":
      return new RedfishGatherer(device, trust, credentials);
    case "ipmi":
      return new IpmiGatherer(device, credentials);
    case "ups":
      return new UpsGatherer(device);
    case "flow":
      return new FlowGatherer(device);
    case "containers":
      return new ContainerGatherer(
        device,
        device.socket === "" ? undefined : engineSocket(device.socket, device.timeoutMs),
        existsSync("/sys/fs/cgroup") ? machineFiles() : undefined,
      );
  }
}

export function snmpCredentials(credentials: Credentials): Extract<Credentials, { kind: "community" | "snmp user" }> {
  return credentials.kind === "community" || credentials.kind === "snmp user"
    ? credentials
    : { kind: "community", community: "public" };
}
