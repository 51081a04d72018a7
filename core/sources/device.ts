import type { PickedNumber } from "../formats/snmp/picked-numbers.ts";
import type { ContainerChoice } from "./container-choice.ts";

/** A device that speaks SNMP. */
export interface SnmpDevice {
  readonly kind: "snmp";
  readonly host: string;
  readonly port: number;
  readonly version: "1" | "2c" | "3";
  /** Absent: UDP. */
  readonly transport?: "udp" | "tcp";
  readonly timeoutMs: number;
  /** Names of the modules that are taken. */
  readonly modules: readonly string[];
  readonly numbers: readonly PickedNumber[];
}

/** A management controller by Redfish. */
export interface RedfishDevice {
  readonly kind: "redfish";
  /** Absent: https. Over http everybody on the way reads the password. */
  readonly scheme?: "http" | "https";
  readonly host: string;
  readonly port: number;
  readonly timeoutMs: number;
}

/** A management controller by IPMI 2.0 over the network, through ipmitool. */
export interface IpmiDevice {
  readonly kind: "ipmi";
  readonly host: string;
  readonly port: number;
  readonly timeoutMs: number;
}

/** A power supply that a program on its machine tells about, through upsc. */
export interface UpsDevice {
  readonly kind: "ups";
  readonly host: string;
  readonly port: number;
  /** Its name there. */
  readonly ups: string;
  readonly timeoutMs: number;
}

/** Containers of an engine on this machine: by its socket, and by control groups. */
export interface ContainersDevice extends ContainerChoice {
  readonly kind: "containers";
  /** Path of the engine's socket; empty: control groups only. */
  readonly socket: string;
  readonly timeoutMs: number;
}

/** A router that sends its flows, by IPFIX or version 9 before it: Nubrel listens for them. */
export interface FlowDevice {
  readonly kind: "flow";
  /** The address of this machine that is listened at; 0.0.0.0 for all. */
  readonly host: string;
  readonly port: number;
  /** The address from which the router sends; empty: any. */
  readonly from: string;
  /** How long the first records are waited for. */
  readonly timeoutMs: number;
}

export type Device = SnmpDevice | RedfishDevice | IpmiDevice | UpsDevice | ContainersDevice | FlowDevice;
export const deviceKinds = [
  "snmp",
  "redfish",
  "ipmi",
  "ups",
  "containers",
  "flow",
] as const satisfies readonly Device["kind"][];

/** How a device of SNMP knows who asks. Level: signed is authNoPriv, sealed is authPriv (RFC 3414). */
export type SnmpCredentials =
  | { readonly kind: "community"; readonly community: string }
  | {
      readonly kind: "snmp user";
      readonly user: string;
      readonly level: "none" | "signed" | "sealed";
      readonly authProtocol: SnmpAuthProtocol;
      readonly authKey: string;
      readonly privProtocol: SnmpPrivProtocol;
      readonly privKey: string;
    };

export const snmpAuthProtocols = ["md5", "sha", "sha224", "sha256", "sha384", "sha512"] as const;
export type SnmpAuthProtocol = (typeof snmpAuthProtocols)[number];
export const snmpPrivProtocols = ["des", "aes", "aes256b", "aes256r"] as const;
export type SnmpPrivProtocol = (typeof snmpPrivProtocols)[number];
