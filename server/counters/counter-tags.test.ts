import fc from "fast-check";
import { expect, test } from "vitest";
import type { Tags } from "../../core/counters/counter.ts";
import type { Series } from "../store/series-registry.ts";
import { TagsOfCounters, tagsOfSeries } from "./counter-tags.ts";

/** Machines that people tagged. */
class Names {
  version = 0;
  readonly #tags = new Map<string, Tags>();

  set(machine: string, tags: Tags): void {
    this.version++;
    this.#tags.set(machine, tags);
  }

  of = (machine: string) => ({ tags: this.#tags.get(machine) ?? {} });
  tagsWith = (tags: Tags) => ({ ...this.#tags.get(tags["machine"] ?? ""), ...tags });
}

const seriesOf = (id: number, tags: Tags): Series => ({ id, counter: "c", tags, unit: "1", kind: "level" });

test("what is told of a counter while series come and machines are tagged is what looking at all of them tells (property)", () => {
  const name = fc.constantFrom("vault", "hive", "gate");
  const step = fc.oneof(
    fc.record({ machine: fc.option(name, { nil: undefined }), device: fc.constantFrom("a", "b", "c10", "c9") }),
    fc.record({ tagged: name, as: fc.constantFrom({ site: "north" }, { device: "own" }, {}) }),
    fc.constant("others forgotten" as const),
  );
  fc.assert(
    fc.property(fc.array(step, { maxLength: 40 }), (steps) => {
      const names = new Names();
      const known = new TagsOfCounters(names, 30);
      let list: Series[] = [];
      for (const [i, one] of steps.entries()) {
        if (one === "others forgotten") list = list.filter((_, k) => k % 2 === 0);
        else if ("tagged" in one) names.set(one.tagged, one.as);
        else list.push(seriesOf(i, { device: one.device, ...(one.machine !== undefined && { machine: one.machine }) }));
        expect(known.of("c", list)).toEqual(tagsOfSeries(list, names, 30));
      }
    }),
  );
});

test("series that were looked at are not looked at again", () => {
  const looked: number[] = [];
  const list = Array.from({ length: 50 }, (_, id) =>
    Object.defineProperty(seriesOf(id, {}), "tags", {
      get: () => {
        looked.push(id);
        return { machine: "vault", device: `d${id}` };
      },
    }),
  );
  const known = new TagsOfCounters(new Names(), 30);
  const first = known.of("c", list);
  expect(first.tags.map(({ tag, values }) => [tag, values.length])).toEqual([
    ["machine", 1],
    ["device", 30],
  ]);
  list.push(seriesOf(50, { machine: "hive" }));
  looked.length = 0;
  expect(known.of("c", list).machines).toEqual(["hive", "vault"]);
  expect(known.of("c", list)).toBe(known.of("c", list));
  expect(looked).toEqual([]);
});
