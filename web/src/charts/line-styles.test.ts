import { beforeEach, describe, expect, test, vi } from "vitest";

const kept = new Map<string, string>();
let isFull = false;
vi.stubGlobal("localStorage", {
  getItem: (key: string) => kept.get(key) ?? null,
  setItem: (key: string, value: string) => {
    if (isFull) throw new DOMException("full", "QuotaExceededError");
    kept.set(key, value);
  },
});
/** The styles as a page that has just been opened finds them. */
const opened = async () => {
  vi.resetModules();
  return (await import("./line-styles.ts")).lineStyles;
};

beforeEach(() => {
  kept.clear();
  isFull = false;
});

describe("what a person has chosen for lines", () => {
  test("is kept in the browser, by chart and line, and told to whoever shows it", async () => {
    const styles = await opened();
    const told = vi.fn();
    const off = styles.subscribe(told);
    styles.set("network of vault", "received", { colour: 3 });
    styles.set("network of vault", "received", { width: 4, raised: true });
    styles.set("network of hive", "received", { hidden: true });
    expect(told).toHaveBeenCalledTimes(3);
    off();
    styles.set("network of hive", "sent", { hidden: true });
    expect(told).toHaveBeenCalledTimes(3);
    expect((await opened()).all).toEqual({
      "network of vault | received": { colour: 3, width: 4, raised: true },
      "network of hive | received": { hidden: true },
      "network of hive | sent": { hidden: true },
    });
  });
  test("what is taken back leaves nothing behind", async () => {
    const styles = await opened();
    styles.set("c", "l", { hidden: true, colour: 1 });
    styles.set("c", "l", { hidden: false });
    expect(styles.all).toEqual({ "c | l": { colour: 1 } });
    styles.set("c", "l", { colour: undefined });
    expect(styles.all).toEqual({});
  });
  test("colour 0 is a colour", async () => {
    const styles = await opened();
    styles.set("c", "l", { colour: 0 });
    expect(styles.all).toEqual({ "c | l": { colour: 0 } });
  });
  test("of very many the oldest are let go; one that is changed again is not old", async () => {
    const styles = await opened();
    for (let i = 0; i < 400; i++) styles.set("c", `l${i}`, { raised: true });
    styles.set("c", "l0", { colour: 2 });
    styles.set("c", "new", { raised: true });
    expect(Object.keys(styles.all)).toHaveLength(400);
    expect(styles.all["c | l0"]).toEqual({ raised: true, colour: 2 });
    expect(styles.all["c | l1"]).toBeUndefined();
  });
  test("a browser that keeps nothing still shows it", async () => {
    isFull = true;
    const styles = await opened();
    styles.set("c", "l", { hidden: true });
    expect(styles.all).toEqual({ "c | l": { hidden: true } });
    expect((await opened()).all).toEqual({});
  });
  test.each(["{", "null", "7"])("what is kept and cannot be read (%s) is nothing", async (text) => {
    kept.set("nubrel.lines", text);
    expect((await opened()).all).toEqual({});
  });
});
