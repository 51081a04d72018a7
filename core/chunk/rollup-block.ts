import { fiveMinutesMs, joinRollups, type LevelRollup, type Rollup, type TotalRollup } from "../series/rollup.ts";
import { BlockError, BlockReader, BlockWriter } from "./cursor.ts";
import { firstRollupPlanes, levelOfFirst, totalOfFirst } from "./first-rollup-block.ts";
import { readIntegers } from "./read-integers.ts";
import { writeIntegers } from "./write-integers.ts";
import { readValues, writeValues } from "./values.ts";

const version = 2;
const firstVersion = 1;
const kinds = ["level", "total"] as const;
/** More buckets than any period of a tier has. */
const mostBuckets = 100_000;
/** A mean is kept to this many digits of the largest sample of its block. */
const meanDigits = 6;
/** Growth that is this small a share of the total is the rounding of sums. */
const roundingShare = 1e-9;

/**
 * What is stored of buckets, in this order, and which planes of a rollup are made of it. Times stand as their distance
 * from the start of the bucket, what is
 * the same in most buckets as its difference from that: most columns of a regular source are constant.
 */
const stored = {
  level: {
    firstAfter: ["firstMs", "coveredMs", "integral"],
    lastAfter: ["lastMs", "coveredMs", "integral"],
    count: ["count", "integral"],
    last: ["last"],
    infinite: ["infinite"],
    sum: ["sum", "integral"],
    beside: ["integral"],
    gap: ["coveredMs", "integral"],
    min: ["min"],
    max: ["max"],
  },
  total: {
    firstAfter: ["firstMs"],
    lastAfter: ["lastMs"],
    count: ["count"],
    last: ["last", "grown"],
    infinite: ["infinite"],
    first: ["first", "grown"],
    restarted: ["grown"],
    gap: ["gapMs"],
    gapGrown: ["gapGrown"],
    slowest: ["slowest"],
    fastest: ["fastest"],
  },
} as const;

type Columns<Name extends string = string> = Readonly<Record<Name, Float64Array>>;

const out = new BlockWriter();
const part = new BlockWriter();
const nothing = new Float64Array(0);
const reader = new BlockReader(new Uint8Array(0));

/**
 * Packs buckets: version, kind, count, starts, then each stored column as its length and its values, so that columns
 * can be passed over. Means are kept to six digits of the largest sample.
 */
export function writeRollupBlock(rollup: Rollup): Uint8Array {
  const n = rollup.startMs.length;
  out.clear();
  out.byte(version);
  out.byte(kinds.indexOf(rollup.kind));
  out.varint(n);
  if (n > 0) {
    writeIntegers(out, rollup.startMs, n);
    for (const values of rollup.kind === "level" ? levelColumns(rollup) : totalColumns(rollup)) {
      part.clear();
      writeValues(part, values, 0, n);
      const bytes = part.finish();
      out.varint(bytes.length);
      out.bytes(bytes);
    }
  }
  return out.finish();
}

/**
 * Unpacks what writeRollupBlock packed, and blocks of the first version, whose buckets are `resolutionMs` long. Of the
 * planes only those that are `wanted`; the others may be left empty. Throws BlockError.
 */
export function readRollupBlock(
  bytes: Uint8Array,
  start = 0,
  end = bytes.length,
  wanted?: ReadonlySet<string>,
  resolutionMs = fiveMinutesMs,
): Rollup {
  return readRollupBlocks([{ bytes, start, end }], wanted, resolutionMs);
}

/** Where a block stands in memory. */
export interface BlockPlace {
  readonly bytes: Uint8Array;
  readonly start: number;
  readonly end: number;
}

/** The same of blocks of one series that follow one another: their buckets as one rollup, read into one piece of memory. */
export function readRollupBlocks(
  blocks: readonly BlockPlace[],
  wanted?: ReadonlySet<string>,
  resolutionMs = fiveMinutesMs,
): Rollup {
  const heads = blocks.map(openBlock);
  const { kind } = heads[0] as BlockHead;
  if (heads.some((one) => one.found === firstVersion || one.kind !== kind))
    return joinRollups(
      blocks.map((block) => {
        const head = openBlock(block);
        return head.found === firstVersion ? readFirst(head, resolutionMs) : readRollupBlocks([block], wanted);
      }),
    );
  const length = heads.reduce((sum, { n }) => sum + n, 0);
  const names = Object.keys(stored[kind]);
  const read = names.filter((name) => isWanted(kind, name, wanted));
  const room = new Float64Array(length * (1 + read.length));
  const startMs = room.subarray(0, length);
  const columns: Record<string, Float64Array> = {};
  for (const name of names) columns[name] = nothing;
  read.forEach((name, k) => {
    columns[name] = room.subarray((k + 1) * length, (k + 2) * length);
  });
  let at = 0;
  for (const block of blocks) {
    const { n } = openBlock(block);
    if (n > 0) readIntegers(reader, startMs, at, n);
    for (const name of n > 0 ? names : []) readColumn(columns[name] as Float64Array, at, n);
    reader.end();
    at += n;
  }
  return kind === "level" ? levelOf(startMs, columns) : totalOf(startMs, columns);
}

interface BlockHead {
  readonly found: number;
  readonly kind: (typeof kinds)[number];
  readonly n: number;
}

/** Opens a block for reading what follows its head. */
function openBlock({ bytes, start, end }: BlockPlace): BlockHead {
  reader.open(bytes, start, end);
  const found = reader.byte();
  if (found !== version && found !== firstVersion)
    throw new BlockError(`version ${found} is not known, ${firstVersion} and ${version} are`, 0);
  const kind = kinds[reader.byte()];
  if (!kind) throw new BlockError("the kind of rollup is not known", 1);
  const n = reader.varint();
  if (n > mostBuckets || (n > 0 && reader.remaining === 0))
    throw new BlockError(`${n} buckets are claimed, ${reader.remaining} bytes remain`, 2);
  return { found, kind, n };
}

/** What follows the head of a block of the first version. */
function readFirst({ kind, n }: BlockHead, resolutionMs: number): Rollup {
  const startMs = new Float64Array(n);
  if (n > 0) readIntegers(reader, startMs, 0, n);
  const columns: Record<string, Float64Array> = {};
  for (const name of firstRollupPlanes[kind]) {
    columns[name] = new Float64Array(n);
    if (n > 0) readColumn(columns[name], 0, n);
  }
  reader.end();
  return kind === "level" ? levelOfFirst(startMs, columns, resolutionMs) : totalOfFirst(startMs, columns, resolutionMs);
}

function isWanted(kind: keyof typeof stored, name: string, wanted: ReadonlySet<string> | undefined): boolean {
  return (
    wanted === undefined ||
    (stored[kind] as Readonly<Record<string, readonly string[]>>)[name]?.some((plane) => wanted.has(plane)) === true
  );
}

/** Reads `n` values from `at` on; passes over them where there is no room for any. */
function readColumn(into: Float64Array, at: number, n: number): void {
  const length = reader.varint();
  if (into.length === 0) reader.skip(length);
  else readValues(reader, into, at, n);
}

function levelColumns({
  startMs,
  firstMs,
  lastMs,
  count,
  last,
  infinite,
  sum,
  integral,
  coveredMs,
  min,
  max,
}: LevelRollup): readonly Float64Array[] {
  // The mean by time is near the mean of the samples: their difference takes fewer bits.
  const beside = integral.map((v, i) => (coveredMs[i] > 0 ? v / coveredMs[i] - sum[i] / count[i] : 0));
  return [
    after(firstMs, startMs),
    after(lastMs, startMs),
    count,
    last,
    infinite,
    sum,
    rounded(beside, largest(max, min)),
    coveredMs.map((ms, i) => lastMs[i] - firstMs[i] - ms),
    min,
    max,
  ];
}

/** Reworks the columns where they stand: for a year of hours, arrays anew would take as long as reading them. */
function levelOf(startMs: Float64Array, columns: Columns): LevelRollup {
  const {
    firstAfter: firstMs,
    lastAfter: lastMs,
    count,
    last,
    infinite,
    sum,
    beside: integral,
    gap: coveredMs,
    min,
    max,
  } = columns as Columns<keyof typeof stored.level>;
  for (let i = 0; i < coveredMs.length; i++) coveredMs[i] = lastMs[i] - firstMs[i] - coveredMs[i];
  for (let i = 0; i < integral.length; i++) integral[i] = (integral[i] + sum[i] / count[i]) * coveredMs[i];
  addStarts(firstMs, startMs);
  addStarts(lastMs, startMs);
  return { kind: "level", startMs, firstMs, lastMs, count, last, infinite, sum, integral, coveredMs, min, max };
}

function totalColumns({
  startMs,
  firstMs,
  lastMs,
  count,
  last,
  infinite,
  first,
  grown,
  gapMs,
  gapGrown,
  slowest,
  fastest,
}: TotalRollup): readonly Float64Array[] {
  const restarted = grown.map((v, i) => {
    const more = v - (last[i] - first[i]);
    return Math.abs(more) <= roundingShare * Math.abs(last[i]) ? 0 : more;
  });
  return [
    after(firstMs, startMs),
    after(lastMs, startMs),
    count,
    last,
    infinite,
    first,
    restarted,
    gapMs,
    gapGrown,
    slowest,
    fastest,
  ];
}

function totalOf(startMs: Float64Array, columns: Columns): TotalRollup {
  const {
    firstAfter: firstMs,
    lastAfter: lastMs,
    count,
    last,
    infinite,
    first,
    restarted: grown,
    gap: gapMs,
    gapGrown,
    slowest,
    fastest,
  } = columns as Columns<keyof typeof stored.total>;
  for (let i = 0; i < grown.length; i++) grown[i] = last[i] - first[i] + grown[i];
  addStarts(firstMs, startMs);
  addStarts(lastMs, startMs);
  return {
    kind: "total",
    startMs,
    firstMs,
    lastMs,
    count,
    last,
    infinite,
    first,
    grown,
    gapMs,
    gapGrown,
    slowest,
    fastest,
  };
}

function addStarts(ms: Float64Array, startMs: Float64Array): void {
  for (let i = 0; i < ms.length; i++) ms[i] += startMs[i];
}

const after = (ms: Float64Array, startMs: Float64Array) => ms.map((v, i) => v - startMs[i]);

/**
 * Rounds to so many digits of the largest: by decimals where it is small, by powers of two where it is large, so that
 * the numbers pack as integers.
 */
function rounded(values: Float64Array, most: number): Float64Array {
  if (!(most > 0) || !Number.isFinite(most)) return values;
  const digits = Math.floor(Math.log10(most)) + 1;
  if (digits <= meanDigits) {
    const scale = 10 ** Math.min(9, meanDigits - digits);
    return values.map((v) => Math.round(v * scale) / scale + 0); // + 0: a −0 does not pack
  }
  const unit = 2 ** Math.floor(Math.log2(most / 10 ** meanDigits));
  return values.map((v) => Math.round(v / unit) * unit + 0);
}

function largest(max: Float64Array, min: Float64Array): number {
  let most = 0;
  for (let i = 0; i < max.length; i++) most = Math.max(most, Math.abs(max[i]), Math.abs(min[i]));
  return most;
}
