import type { PickedNumber } from "../../formats/snmp/picked-numbers.ts";
import { snmpModuleNames } from "../../formats/snmp/snmp-modules.ts";
import { hostField, portField, waitField } from "./device-field.ts";
import type { DeviceKind } from "./device-kind.ts";

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

export const snmpKind: DeviceKind<SnmpDevice> = {
  words: "asked by SNMP",
  ways: [
    {
      id: "network",
      has: "a network device",
      what: "a router, a switch, an access point, a printer: interfaces and sensors by SNMP; walk it and pick",
    },
    { id: "ups", has: "a power supply with a battery", what: "charge, load, power, mains; by SNMP" },
  ],
  asks: "Where is it, and who are we to it?",
  act: "Walk it",
  fresh: {
    kind: "snmp",
    host: "",
    port: 161,
    version: "2c",
    transport: "udp",
    timeoutMs: 5000,
    modules: snmpModuleNames,
    numbers: [],
  },
  lines: [
    [
      "Ask ",
      hostField("gate.quay"),
      ":",
      portField(161),
      " by SNMP version ",
      {
        holds: "choice",
        name: "version",
        label: "version",
        absent: "2c",
        of: ["2c", "3", "1"].map((value) => ({ value, words: value })),
      },
      " over ",
      {
        holds: "choice",
        name: "transport",
        label: "transport",
        absent: "udp",
        leftOut: true,
        of: [
          { value: "udp", words: "UDP" },
          { value: "tcp", words: "TCP" },
        ],
      },
      " and wait ",
      waitField(5000),
      " s at most",
    ],
  ],
  credentials: "snmp",
  showsCertificate: () => false,
  text: ({ host, port, version }) => `${host}:${port}, SNMP ${version}`,
  name: ({ host }) => host,
};

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
