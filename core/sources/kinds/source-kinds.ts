import { type Device, deviceKindNames, deviceKinds } from "./device-kinds.ts";

/**
 * this-machine: read from the kernel. pull: we ask an address for a page. push: it sends. collector: our shell
 * collector sends. relay: our program at another site gathers there and sends. The others are devices that we ask over
 * their own protocols.
 */
export type SourceKind = "this-machine" | "pull" | "push" | "collector" | "relay" | Device["kind"];

/** What a kind of source is to everybody who meets one. */
export interface SourceKindEntry {
  /** In lists. */
  readonly words: string;
  /** Whether it sends of its own accord, at its own pace, or Nubrel goes and gets it. */
  readonly comes: "sent" | "fetched";
  /** Whether a person makes such a source; this machine is there by itself. */
  readonly isMade: boolean;
}

const ofDevices = Object.fromEntries(
  deviceKindNames.map((kind) => [kind, { words: deviceKinds[kind].words, comes: "fetched", isMade: true }]),
) as Record<Device["kind"], SourceKindEntry>;

export const sourceKinds: Readonly<Record<SourceKind, SourceKindEntry>> = {
  "this-machine": { words: "this machine", comes: "fetched", isMade: false },
  pull: { words: "asked", comes: "fetched", isMade: true },
  push: { words: "sends", comes: "sent", isMade: true },
  collector: { words: "collector sends", comes: "sent", isMade: true },
  relay: { words: "relay", comes: "sent", isMade: true },
  ...ofDevices,
};
export const sourceKindNames = Object.keys(sourceKinds) as SourceKind[];

/** Whether a source sends of its own accord. */
export function sends({ kind }: { readonly kind: SourceKind }): boolean {
  return sourceKinds[kind].comes === "sent";
}
