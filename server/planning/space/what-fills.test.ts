import { describe, expect, test } from "vitest";
import { chartOf, ownTags, whatFills } from "./what-fills.ts";

const given = { fills: [{ name: "letters waiting", counter: "mail.queue", limit: 500 }] };
const all = whatFills(given, (counter) => (counter === "mail.queue" ? "{letter}" : "1"));
const of = (kind: string) => {
  const found = all.find((one) => one.kind === kind);
  if (!found) throw new Error(`nothing is ${kind}`);
  return found;
};

test("what is known to fill, and what a person names", () =>
  expect(all.map(({ kind, unit }) => [kind, unit])).toEqual([
    ["filesystem", "By"],
    ["inodes", "{inode}"],
    ["pool", "By"],
    ["guest's disk", "By"],
    ["given", "{letter}"],
  ]));

test.each([
  ["filesystem", { mountpoint: "/srv", device: "sda1" }, "/srv"],
  ["filesystem", { device: "sda1" }, "sda1"],
  ["filesystem", { mountpoint: "/srv", device: "/dev/md0" }, "/srv on array md0"],
  ["filesystem", { mountpoint: "/srv", device: "md127" }, "/srv on array md127"],
  ["filesystem", { mountpoint: "/srv", device: "mdadm-backup" }, "/srv"],
  ["filesystem", {}, "filesystem"],
  ["inodes", { mountpoint: "/srv" }, "inodes of /srv"],
  ["pool", { pool: "archive" }, "pool archive"],
  ["guest's disk", { guest: "web", device: "vda" }, "vda of web"],
  ["given", {}, "letters waiting"],
])("%s with %j is called %s", (kind, tags, name) => expect(of(kind).nameOf(tags)).toBe(name));

describe("its lines", () => {
  test("are told apart by what they are per: used has a state, the size has not", () => {
    const tags = { machine: "vault", pool: "archive", state: "used", site: "rack" };
    expect(ownTags(of("pool"), tags)).toEqual({ machine: "vault", pool: "archive" });
    expect(ownTags(of("given"), tags)).toEqual(tags);
  });
  test("have a chart of their own: a share in percent, or the counter as it is", () => {
    const pool = chartOf(of("pool"), { machine: "vault", pool: "archive", state: "used" });
    expect(pool).toMatchObject({ figure: "used / size * 100", unit: "%" });
    expect(pool.sentences["used"]?.where).toEqual([
      { tag: "state", is: ["used"] },
      { tag: "machine", is: ["vault"] },
      { tag: "pool", is: ["archive"] },
    ]);
    expect(pool.sentences["size"]?.where).toEqual([
      { tag: "machine", is: ["vault"] },
      { tag: "pool", is: ["archive"] },
    ]);
    expect(chartOf(of("given"), { machine: "mail" })).toEqual({
      sentences: { used: { counter: "mail.queue", lines: "each", where: [{ tag: "machine", is: ["mail"] }] } },
    });
  });
});
