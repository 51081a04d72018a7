import { hostField, portField, waitField } from "./device-field.ts";
import type { DeviceKind } from "./device-kind.ts";

/** A management controller by Redfish. */
export interface RedfishDevice {
  readonly kind: "redfish";
  /** Absent: https. Over http everybody on the way reads the password. */
  readonly scheme?: "http" | "https";
  readonly host: string;
  readonly port: number;
  readonly timeoutMs: number;
}

export const redfishKind: DeviceKind<RedfishDevice> = {
  words: "asked by Redfish",
  ways: [
    {
      id: "controller",
      has: "a server's management controller",
      what: "power, temperatures, fans, voltages, health; by Redfish",
    },
  ],
  asks: "Where is its controller, and who are we to it?",
  act: "Try it",
  fresh: { kind: "redfish", scheme: "https", host: "", port: 443, timeoutMs: 15_000 },
  lines: [
    [
      "Ask ",
      hostField("hive-controller.quay"),
      ":",
      portField(443),
      " over ",
      {
        holds: "choice",
        name: "scheme",
        label: "scheme",
        absent: "https",
        leftOut: true,
        of: [
          { value: "https", words: "https" },
          { value: "http", words: "http", warning: "everybody on the way reads the password" },
        ],
      },
      " and wait ",
      waitField(15_000),
      " s at most",
    ],
  ],
  credentials: "user and password",
  showsCertificate: ({ scheme }) => scheme !== "http",
  text: ({ scheme = "https", host, port }) => `${scheme}://${host}:${port}, Redfish`,
  name: ({ host }) => host,
};
