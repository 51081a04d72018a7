import {
  appendFileSync,
  mkdtempSync,
  readdirSync,
  readFileSync,
  rmSync,
  symlinkSync,
  truncateSync,
  writeFileSync,
} from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { execFileSync } from "node:child_process";
import { gunzipSync } from "node:zlib";
import { afterEach, beforeEach, expect, test } from "vitest";
import { RelaySpool, type Unnumbered } from "./relay-spool.ts";

let folder: string;
beforeEach(() => {
  folder = mkdtempSync(join(tmpdir(), "nubrel-relay-spool-"));
});
afterEach(() => rmSync(folder, { recursive: true, force: true }));

const record = (atMs: number, raw = ""): Unnumbered => ({
  ...{ source: 7, atMs, tookMs: 1, kind: "readings", leftOut: [], raw, rawType: "text/plain" },
  ...{ readings: [{ counter: "system.uptime", tags: {}, value: atMs }], certificateUntilMs: null, events: [] },
});
const linesOf = (bytes: Buffer) =>
  gunzipSync(bytes)
    .toString()
    .trim()
    .split("\n")
    .map((line) => JSON.parse(line) as { seq: number; atMs: number });
const files = () => readdirSync(folder).filter((name) => name.endsWith(".gz"));
/** What gzip cannot make smaller. */
const noise = (bytes: number, seed: number): string => {
  let [text, x] = ["", seed + 1];
  while (text.length < bytes) {
    x = (x * 48_271) % 2_147_483_647;
    text += x.toString(36);
  }
  return text;
};

test("what was added goes out in its order, and is gone once it was taken", () => {
  const spool = new RelaySpool(folder);
  for (let i = 1; i <= 3; i++) spool.add(record(i));
  const part = spool.oldest();
  expect(part?.last).toBe(3);
  expect(linesOf(part?.bytes as Buffer).map(({ seq, atMs }) => [seq, atMs])).toEqual([
    [1, 1],
    [2, 2],
    [3, 3],
  ]);
  spool.add(record(4)); // while the part is on its way
  spool.taken(3);
  expect(spool.waiting.records).toBe(1);
  expect(spool.oldest()?.last).toBe(4);
});

test("a part is one gzip stream for any other program (gzip of Debian)", () => {
  const spool = new RelaySpool(folder);
  for (let i = 1; i <= 50; i++) spool.add(record(i));
  const text = execFileSync("gzip", ["-dc", join(folder, files()[0] as string)], { encoding: "utf8" });
  expect(text.trim().split("\n")).toHaveLength(50);
});

test("it outlives the process; what a death cut off at the end is left, and numbers go on after what is whole", () => {
  const before = new RelaySpool(folder);
  for (let i = 1; i <= 5; i++) before.add(record(i));
  const [file] = files() as [string];
  truncateSync(join(folder, file), readFileSync(join(folder, file)).length - 7);
  const after = new RelaySpool(folder);
  expect(after.life).toBe(before.life);
  expect(linesOf(after.oldest()?.bytes as Buffer).map(({ seq }) => seq)).toEqual([1, 2, 3, 4]);
  after.add(record(9));
  after.taken(4);
  expect(linesOf(after.oldest()?.bytes as Buffer)).toMatchObject([{ seq: 5, atMs: 9 }]);
});

test("a part that is damaged in its middle gives what stands before and after that", () => {
  const spool = new RelaySpool(folder);
  for (let i = 1; i <= 4; i++) spool.add(record(i));
  const path = join(folder, files()[0] as string);
  const bytes = readFileSync(path);
  bytes.fill(0, Math.floor(bytes.length / 2) + 10, Math.floor(bytes.length / 2) + 40);
  writeFileSync(path, bytes);
  const found = new RelaySpool(folder);
  const seqs = linesOf(found.oldest()?.bytes as Buffer).map(({ seq }) => seq);
  expect(seqs.length).toBeLessThan(4);
  expect([seqs[0], seqs.at(-1)]).toEqual([1, 4]);
  found.add(record(5));
  found.taken(4);
  expect(found.oldest()?.last).toBe(5);
});

test("numbers go on where all was taken before the process ended", () => {
  const before = new RelaySpool(folder);
  for (let i = 1; i <= 5; i++) before.add(record(i));
  before.taken(5);
  expect(files()).toEqual([]);
  const after = new RelaySpool(folder);
  after.add(record(6));
  expect(after.oldest()?.last).toBe(6);
});

test("where there is no room the oldest goes, is counted, and the newest stays", () => {
  const spool = new RelaySpool(folder, 600_000);
  for (let i = 1; i <= 40; i++) spool.add(record(i, noise(40_000, i)));
  const { records, bytes } = spool.waiting;
  expect(bytes).toBeLessThan(600_000);
  expect(spool.dropped + records).toBe(40);
  expect(spool.dropped).toBeGreaterThan(0);
  let last = 0;
  for (let part = spool.oldest(); part; part = spool.oldest()) {
    last = part.last;
    spool.taken(part.last);
  }
  expect(last).toBe(40);
});

test("files of others in its folder are left alone", () => {
  appendFileSync(join(folder, "notes.txt"), "mine");
  const spool = new RelaySpool(folder);
  spool.add(record(1));
  spool.taken(1);
  expect(readFileSync(join(folder, "notes.txt"), "utf8")).toBe("mine");
});

test("what its disk does not take is told and counted, and nothing of it stands before what comes after", () => {
  const spool = new RelaySpool(folder);
  // The kernel's own full device: it takes nothing (full(4)).
  symlinkSync("/dev/full", join(folder, "000000000001.gz"));
  spool.add(record(1));
  expect(spool.failure).toContain("ENOSPC");
  expect([spool.dropped, spool.waiting.records]).toEqual([1, 0]);
  spool.add(record(2));
  spool.add(record(3));
  expect([spool.failure, spool.waiting.records]).toEqual([null, 2]);
  const { bytes, last } = spool.oldest() ?? { bytes: Buffer.alloc(0), last: 0 };
  expect(linesOf(bytes).map(({ atMs }) => atMs)).toEqual([2, 3]);
  expect(last).toBe(2);
});
