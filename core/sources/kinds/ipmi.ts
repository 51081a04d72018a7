import { hostField, portField, waitField } from "./device-field.ts";
import type { DeviceKind } from "./device-kind.ts";

/** A management controller by IPMI 2.0 over the network, through ipmitool. */
export interface IpmiDevice {
  readonly kind: "ipmi";
  readonly host: string;
  readonly port: number;
  readonly timeoutMs: number;
}

export const ipmiKind: DeviceKind<IpmiDevice> = {
  words: "asked by IPMI",
  ways: [
    { id: "old-controller", has: "an older management controller", what: "the same, by IPMI 2.0 over the network" },
  ],
  asks: "Where is its controller, and who are we to it?",
  act: "Try it",
  fresh: { kind: "ipmi", host: "", port: 623, timeoutMs: 10_000 },
  lines: [
    ["Ask ", hostField("hive-controller.quay"), ":", portField(623), " and wait ", waitField(10_000), " s at most"],
  ],
  credentials: "user and password",
  showsCertificate: () => false,
  text: ({ host, port }) => `${host}:${port}, IPMI 2.0`,
  name: ({ host }) => host,
};
