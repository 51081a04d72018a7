import { Arena } from "../../../core/series/arena.ts";
import { committed } from "../../db/pool.ts";
import { type Worked, type WorkKind, type WorkPlace, worked } from "../../work/work-kind.ts";
import { setAside } from "../quarantine-rows.ts";
import type { KnownTimes } from "./chunk-rows.ts";
import { compactSlot } from "./compact-slot.ts";
import { readColumnsTask, reduceReading } from "./reduce-reading.ts";
import { rollUpPeriod } from "./roll-up-period.ts";
import { replayInto, replayKind } from "./replay.ts";
import { columnsKind, compactKind, reduceKind, rollUpKind, type TaskContext } from "./task.ts";

/**
 * The store's heavy work. What changes the store is one transaction; rows that a reading could not read are set aside
 * in one of their own.
 */
export function storeWork(): readonly Worked[] {
  const knownTimes: KnownTimes = new Map();
  const arena = new Arena();
  const task = <Given, Answer>(
    kind: WorkKind<Given, Answer>,
    work: (context: TaskContext, given: Given, isCancelled: () => boolean) => Promise<Answer>,
  ): Worked =>
    worked(kind, async (place: WorkPlace, given: Given) => {
      const context: TaskContext = {
        connect: place.connect,
        knownTimes,
        damages: [],
        ...(place.isAlone ? { arena } : {}),
      };
      const answer = await work(context, given, place.isCancelled);
      if (context.damages.length > 0)
        await committed(await context.connect(), (connection) => setAside(connection, context.damages));
      return answer;
    });
  return [
    task(reduceKind, reduceReading),
    task(columnsKind, readColumnsTask),
    task(replayKind, async (context, { port, segments }) => replayInto(context.connect, port, segments)),
    task(compactKind, async (context, given) =>
      committed(await context.connect(), (connection) => compactSlot(connection, context, given)),
    ),
    task(rollUpKind, async (context, given) =>
      committed(await context.connect(), (connection) => rollUpPeriod(connection, context, given)),
    ),
  ];
}
