import fc from "fast-check";
import { expect, test } from "vitest";
import { extendLife, holdsSlots, lifeOf, newPage, pageSize, readStoredPage, storedPage } from "./life-pages.ts";
import { SeriesLives } from "./series-lives.ts";

const slot = fc.integer({ min: 1000, max: 1040 });
const note = fc.record({ ids: fc.array(fc.integer({ min: 1, max: 3000 }), { maxLength: 4 }), slot });

test("a series is alive from its first slot to its last and a little beyond, and where nothing is known of it (property)", () => {
  fc.assert(
    fc.property(fc.array(note, { maxLength: 12 }), slot, slot, (notes, from, to) => {
      const lives = new SeriesLives();
      const known = new Map<number, number[]>();
      for (const one of notes) {
        lives.note(one.ids, one.slot);
        for (const id of one.ids) known.set(id, [...(known.get(id) ?? []), one.slot]);
      }
      const [fromSlot, toSlot] = [Math.min(from, to), Math.max(from, to)];
      for (let id = 1; id <= 3000; id += 7) expect(lives.isAlive(id, fromSlot, toSlot)).toBe(expected(id));
      for (const id of known.keys()) expect(lives.isAlive(id, fromSlot, toSlot)).toBe(expected(id));

      function expected(id: number): boolean {
        const slots = known.get(id);
        if (!slots) return true;
        return Math.min(...slots) - holdsSlots <= toSlot && Math.max(...slots) + holdsSlots >= fromSlot;
      }
    }),
  );
});

test("what is remembered of a list follows new series, new samples, and series that were forgotten", () => {
  const lives = new SeriesLives();
  const list = [{ id: 1 }, { id: 2 }];
  const alive = (of: readonly { id: number }[] = list) => lives.aliveOf("c", of, 2000, 2010).map(({ id }) => id);
  lives.note([1], 1000);
  lives.note([2], 2005);
  expect(alive()).toEqual([2]);
  list.push({ id: 3 });
  expect(alive()).toEqual([2, 3]);
  lives.note([3], 3000);
  expect(alive()).toEqual([2]);
  lives.note([1], 2012); // it has come back
  expect(alive()).toEqual([1, 2]);
  expect(alive(list.filter(({ id }) => id !== 2))).toEqual([1]);
});

test("a stored page gives back first and last of every series", () => {
  const page = newPage();
  expect(lifeOf(page, 5)).toEqual([0, 0]);
  expect(extendLife(page, 5, 100, 100, true)).toBe(true);
  expect(extendLife(page, 5, 90, 95, true)).toBe(true);
  expect(extendLife(page, 5, 101, 130, true)).toBe(true);
  expect(extendLife(page, 5, 91, 129, true)).toBe(false);
  extendLife(page, pageSize - 1, 7, 8, false); // it was there before lives were noted
  extendLife(page, pageSize - 1, 5, 6, true);
  const read = readStoredPage(storedPage(page));
  expect(read).toEqual(page);
  expect(lifeOf(read, 5)).toEqual([90, 130]);
  expect(lifeOf(read, pageSize - 1)).toEqual([0, 8]);
  expect(lifeOf(read, 4)).toEqual([0, 0]);
  expect([...storedPage(page).subarray(40, 48)]).toEqual([90, 0, 0, 0, 130, 0, 0, 0]);
});

test("lists of long windows are not all remembered, and lists of which none had ended take nothing", () => {
  const lives = new SeriesLives();
  const list = Array.from({ length: 400_001 }, (_, id) => ({ id }));
  lives.note([0], 1);
  const at = (slot: number) => lives.aliveOf("c", list, slot, slot);
  const [first, second, third] = [at(2000), at(3000), at(4000)];
  expect(first).toHaveLength(400_000);
  expect(at(4000)).toBe(third);
  expect(at(3000)).toBe(second);
  expect(at(2000)).not.toBe(first); // it had given way to the third
  expect(at(2000)).toEqual(first);
  expect(lives.aliveOf("c", list, 0, 5000)).toBe(list);
});
