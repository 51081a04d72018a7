import { type ContainersDevice, containersKind } from "./containers.ts";
import type { DeviceField } from "./device-field.ts";
import type { DeviceKind } from "./device-kind.ts";
import { type FlowDevice, flowKind } from "./flow.ts";
import { type IpmiDevice, ipmiKind } from "./ipmi.ts";
import { type RedfishDevice, redfishKind } from "./redfish.ts";
import { type SnmpDevice, snmpKind } from "./snmp.ts";
import { type UpsDevice, upsKind } from "./ups.ts";

export type Device = SnmpDevice | RedfishDevice | IpmiDevice | UpsDevice | ContainersDevice | FlowDevice;
export type DeviceOf<K extends Device["kind"]> = Extract<Device, { kind: K }>;

/** Every kind of device, each by its one entry, in the order in which a person is asked what there is. */
export const deviceKinds: { readonly [K in Device["kind"]]: DeviceKind<DeviceOf<K>> } = {
  snmp: snmpKind,
  ups: upsKind,
  redfish: redfishKind,
  ipmi: ipmiKind,
  containers: containersKind,
  flow: flowKind,
};
export const deviceKindNames = Object.keys(deviceKinds) as Device["kind"][];

/** The entry of a device, which takes this device: what a table by kinds cannot tell the type checker itself. */
export function kindOf(device: Device): DeviceKind<Device> {
  return deviceKinds[device.kind] as unknown as DeviceKind<Device>;
}

/** The fields of a kind's form, in reading order. */
export function fieldsOf(kind: Device["kind"]): readonly DeviceField[] {
  return deviceKinds[kind].lines
    .flat()
    .filter((part): part is DeviceField<never> => typeof part === "object" && "holds" in part);
}
