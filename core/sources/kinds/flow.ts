import { portField, waitField } from "./device-field.ts";
import type { DeviceKind } from "./device-kind.ts";

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

export const flowKind: DeviceKind<FlowDevice> = {
  words: "sends its flows",
  ways: [
    {
      id: "flows",
      has: "a router that tells of its flows",
      what: "traffic by interface and application protocol; it sends IPFIX, or version 9 before it",
    },
  ],
  asks: "Where does it send them?",
  act: "Listen for them",
  fresh: { kind: "flow", host: "0.0.0.0", port: 4739, from: "", timeoutMs: 30_000 },
  lines: [
    [
      "Listen at UDP port ",
      portField(4739),
      " of ",
      { holds: "address", name: "host", label: "this machine's address", absent: "0.0.0.0" },
      { hint: "(0.0.0.0: every address of this machine)" },
    ],
    [
      "for what the router sends from ",
      {
        holds: "address",
        name: "from",
        label: "the router's address",
        absent: "",
        mayBeEmpty: true,
        example: "192.0.2.1",
      },
      { hint: "(empty: from anywhere)" },
      " and wait ",
      waitField(30_000),
      " s at first",
    ],
    [
      {
        hint: "Enter this machine's address and that port at the router, as the collector of IPFIX or of version 9 before it, with a template at least every minute.",
      },
    ],
  ],
  credentials: "none",
  showsCertificate: () => false,
  text: ({ from, port }) => `flows from ${from || "anywhere"} at UDP port ${port}`,
  name: ({ from }) => from,
};
