import { hostField, portField, waitField } from "./device-field.ts";
import type { DeviceKind } from "./device-kind.ts";

/** A power supply that a program on its machine tells about, through upsc. */
export interface UpsDevice {
  readonly kind: "ups";
  readonly host: string;
  readonly port: number;
  /** Its name there. */
  readonly ups: string;
  readonly timeoutMs: number;
}

export const upsKind: DeviceKind<UpsDevice> = {
  words: "asked by upsc",
  ways: [
    {
      id: "ups-cable",
      has: "a power supply at a machine's cable",
      what: "the same, from the program upsc that runs there",
    },
  ],
  asks: "Which supply, at which machine?",
  act: "Try it",
  fresh: { kind: "ups", host: "127.0.0.1", port: 3493, ups: "ups", timeoutMs: 5000 },
  lines: [
    [
      "Ask ",
      {
        holds: "text",
        name: "ups",
        label: "the supply's name there",
        letters: 16,
        most: 100,
        pattern: /^[a-zA-Z0-9_][a-zA-Z0-9._-]*$/,
        madeOf: "the supply's name there: letters, figures, . _ -",
      },
      " at ",
      hostField("vault.quay"),
      ":",
      portField(3493),
      " and wait ",
      waitField(5000),
      " s at most",
    ],
  ],
  credentials: "none",
  showsCertificate: () => false,
  text: ({ ups, host, port }) => `${ups}@${host}:${port}`,
  name: ({ host }) => host,
};
