import type { SpaceView } from "../../../core/api/space.ts";
import type { PlanningSettings } from "../../../core/api/energy.ts";
import type { Condition, ReadingDocument, Sentence } from "../../../core/reading/document.ts";

/** Something that fills: two lines of one kind, used and size, with the same tags. */
export interface WhatFills {
  readonly kind: SpaceView["kind"];
  readonly used: Sentence;
  /** A sentence, or the limit itself. */
  readonly size: Sentence | number;
  readonly unit: string;
  /** Its name, of its tags. */
  readonly nameOf: (tags: Readonly<Record<string, string>>) => string;
}

const used: Condition = { tag: "state", is: ["used"] };
const usable: Condition = { tag: "state", is: ["used", "free"] };
const perFilesystem = { per: ["machine", "device", "mountpoint"] };

/** An array has no filling of its own: what stands on it fills, and is told to stand there. */
const onArray = (device: string | undefined): string => {
  const array = /^(?:\/dev\/)?(md[\d_/]\S*)$/.exec(device ?? "")?.[1];
  return array === undefined ? "" : ` on array ${array}`;
};

const known: readonly WhatFills[] = [
  {
    kind: "filesystem",
    used: { counter: "system.filesystem.usage", where: [used], lines: perFilesystem, combine: "sum" },
    size: { counter: "system.filesystem.usage", where: [usable], lines: perFilesystem, combine: "sum" },
    unit: "By",
    nameOf: ({ mountpoint, device }) => `${mountpoint ?? device ?? "filesystem"}${onArray(device)}`,
  },
  {
    kind: "inodes",
    used: { counter: "system.filesystem.inodes", where: [used], lines: perFilesystem, combine: "sum" },
    size: { counter: "system.filesystem.inodes", where: [usable], lines: perFilesystem, combine: "sum" },
    unit: "{inode}",
    nameOf: ({ mountpoint, device }) => `inodes of ${mountpoint ?? device ?? "a filesystem"}`,
  },
  {
    kind: "pool",
    used: { counter: "storage.pool.usage", where: [used], lines: { per: ["machine", "pool"] }, combine: "sum" },
    size: { counter: "storage.pool.limit", lines: { per: ["machine", "pool"] }, combine: "sum" },
    unit: "By",
    nameOf: ({ pool }) => `pool ${pool ?? ""}`,
  },
  {
    kind: "guest's disk",
    used: { counter: "guest.disk.usage", lines: { per: ["machine", "guest", "device"] }, combine: "sum" },
    size: { counter: "guest.disk.limit", lines: { per: ["machine", "guest", "device"] }, combine: "sum" },
    unit: "By",
    nameOf: ({ guest, device }) => `${device ?? "disk"} of ${guest ?? "a guest"}`,
  },
];

/** All that is known to fill, and what a person has named. */
export function whatFills(
  { fills }: Pick<PlanningSettings, "fills">,
  unitOf: (counter: string) => string,
): readonly WhatFills[] {
  const given = fills.map(
    ({ name, counter, limit }): WhatFills => ({
      kind: "given",
      used: { counter, lines: "each" },
      size: limit,
      unit: unitOf(counter),
      nameOf: () => name,
    }),
  );
  return [...known, ...given];
}

/** What tells its lines apart: lines of one series have all of its tags beside these. */
export function ownTags(
  { used: { lines } }: WhatFills,
  tags: Readonly<Record<string, string>>,
): Readonly<Record<string, string>> {
  if (typeof lines !== "object") return tags;
  return Object.fromEntries(
    lines.per.flatMap((tag): [string, string][] => (tags[tag] === undefined ? [] : [[tag, tags[tag]]])),
  );
}

/** The chart of one of these: its share in percent. */
export function chartOf(one: WhatFills, tags: Readonly<Record<string, string>>): Omit<ReadingDocument, "window"> {
  const where = Object.entries(ownTags(one, tags)).map(([tag, value]): Condition => ({ tag, is: [value] }));
  const on = (sentence: Sentence): Sentence => ({ ...sentence, where: [...(sentence.where ?? []), ...where] });
  if (typeof one.size === "number") return { sentences: { used: on(one.used) } };
  return {
    sentences: { used: on(one.used), size: on(one.size) },
    figure: "used / size * 100",
    unit: "%",
  };
}
