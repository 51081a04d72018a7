import type { FormLine } from "./device-field.ts";

/** What somebody has who connects a source so. */
export interface WayToConnect {
  readonly id: string;
  readonly has: string;
  readonly what: string;
}

/**
 * All that a kind of device is but how it is asked (server/gather/open-device.ts): its words, its form, what it needs.
 * The server's check of its settings and the forms follow from it.
 */
export interface DeviceKind<D extends { readonly kind: string; readonly timeoutMs: number }> {
  /** In lists: "asked by Redfish". */
  readonly words: string;
  readonly ways: readonly WayToConnect[];
  /** What the second step of connecting is called, and what its button says. */
  readonly asks: string;
  readonly act: string;
  /** One that a form begins with: its usual port and time to wait. */
  readonly fresh: D;
  readonly lines: readonly FormLine<Exclude<keyof D, "kind"> & string>[];
  /** Who we say we are to it. */
  readonly credentials: "none" | "user and password" | "snmp";
  /** Whether it shows a certificate, of these settings. */
  readonly showsCertificate: (device: D) => boolean;
  /** Where it is, as it would be said; `name` is what its source may be called before a person says so. */
  readonly text: (device: D) => string;
  readonly name: (device: D) => string;
}
