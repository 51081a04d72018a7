import fc from "fast-check";
import { describe, expect, test } from "vitest";
import { type AskingServer, type SharedSource, shareOut } from "./share-out.ts";

const sources = (count: number, isHereOnly = false): SharedSource[] =>
  Array.from({ length: count }, (_, id) => ({ id, isHereOnly }));
const servers = (...names: string[]): AskingServer[] => names.map((server) => ({ server, isHere: true }));

/** Carries a plan out as servers do: what is asked back has come, then what is given is held. */
function carriedOut(leases: ReadonlyMap<number, string>, plan: ReturnType<typeof shareOut>): Map<number, string> {
  const next = new Map(leases);
  for (const id of plan.askBack) next.delete(id);
  for (const { id, server } of plan.give) next.set(id, server);
  return next;
}

describe("sources are shared out", () => {
  test("evenly, the one that leads among those that ask", () => {
    const { give, askBack } = shareOut({ sources: sources(9), leases: new Map(), servers: servers("b", "c") });
    expect(give.filter(({ server }) => server === "b")).toHaveLength(3);
    expect(give.filter(({ server }) => server === "c")).toHaveLength(3);
    expect(askBack).toEqual([]);
  });
  test("not at all where there is one, or nobody else", () => {
    expect(shareOut({ sources: sources(1), leases: new Map(), servers: servers("b") }).give).toEqual([]);
    expect(shareOut({ sources: sources(9), leases: new Map(), servers: [] }).give).toEqual([]);
  });
  test("what is here only goes to those that stand here", () => {
    const far = [{ server: "b", isHere: false }];
    expect(shareOut({ sources: sources(4, true), leases: new Map(), servers: far }).give).toEqual([]);
    expect(shareOut({ sources: sources(4), leases: new Map(), servers: far }).give).toHaveLength(2);
  });
  test("what a server does not reach is asked back, and not given to it again", () => {
    const isOutOfReach = (id: number, server: string) => id === 3 && server === "b";
    const leases = new Map([[3, "b"]]);
    expect(shareOut({ sources: sources(4), leases, servers: servers("b"), isOutOfReach }).askBack).toEqual([3]);
    const { give } = shareOut({ sources: sources(4), leases: new Map(), servers: servers("b"), isOutOfReach });
    expect(give.map(({ id }) => id)).toEqual([2, 1]);
  });
  test("what is paused, removed or asked by nobody else any more is asked back", () => {
    const leases = new Map([[7, "b"]]);
    expect(shareOut({ sources: sources(4), leases, servers: servers("b") }).askBack).toEqual([7]);
  });
  test("a server that is not heard of keeps its leases until they end", () => {
    const leases = new Map([[1, "gone"]]);
    expect(shareOut({ sources: sources(4), leases, servers: servers("b") }).askBack).toEqual([]);
  });
  test("whatever stood before: after two rounds every server has its share or one more, and then nothing moves", () => {
    const names = ["b", "c", "d", "e"];
    fc.assert(
      fc.property(
        fc.integer({ min: 0, max: 40 }),
        fc.integer({ min: 0, max: 4 }),
        fc.array(fc.tuple(fc.integer({ min: 0, max: 45 }), fc.integer({ min: 0, max: 3 })), { maxLength: 60 }),
        (count, howMany, before) => {
          const there = servers(...names.slice(0, howMany));
          let leases: ReadonlyMap<number, string> = new Map(
            before.filter(([, at]) => at < howMany).map(([id, at]) => [id, names[at] as string]),
          );
          for (let round = 0; round < 2; round++)
            leases = carriedOut(leases, shareOut({ sources: sources(count), leases, servers: there }));
          const share = count / (howMany + 1);
          for (const { server } of there) {
            const has = [...leases.values()].filter((one) => one === server).length;
            expect(has).toBeGreaterThanOrEqual(Math.floor(share));
            expect(has).toBeLessThanOrEqual(Math.ceil(share));
          }
          expect([...leases.keys()].every((id) => id < count)).toBe(true);
          expect(shareOut({ sources: sources(count), leases, servers: there })).toEqual({ give: [], askBack: [] });
        },
      ),
    );
  });
});
