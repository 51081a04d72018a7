import { MachineGatherer } from "../server/gather/this-machine/machine-gatherer.ts";
import { runServer } from "../server/main.ts";
import { createOwner, hasOwner } from "../server/people/accounts.ts";
import { hashPassword } from "../server/people/password.ts";
import type { Database } from "../server/db/pool.ts";
import type { Store } from "../server/store/store.ts";
import { writeReadings } from "../server/sources/write-readings.ts";
import { PlayoutFiles } from "../standins/playout/playout-files.ts";

// The sample world: the machine `playout` in place of the one that Nubrel runs on, gathered by the same code.

const machine = "playout";
const owner = { name: "Ines", password: "kestrel on the quay" } as const;
const historyMs = 6 * 3_600_000;
const historyStepMs = 15_000;
const offsetSeconds = -new Date().getTimezoneOffset() * 60;

process.env["NUBREL_MACHINE"] = machine;
await runServer(
  () => ({
    files: new PlayoutFiles(Date.now, offsetSeconds),
    before: async (store, database) => {
      await ensureDemoOwner(database);
      await gatherPast(store, Date.now());
      await store.maintain(); // at once, so that its disk shows
    },
  }),
  () => [`Sample world. Sign in as ${owner.name} with the password: ${owner.password}`],
);

async function ensureDemoOwner(database: Database): Promise<void> {
  if (!(await hasOwner(database))) await createOwner(database, owner.name, await hashPassword(owner.password));
}

/** Gathers `playout` over the last six hours, or since it was gathered last, with a clock that is moved on: the same gatherer, the same way into the store. */
async function gatherPast(store: Store, nowMs: number): Promise<void> {
  const began = Math.max(nowMs - historyMs, (store.health.lastSampleAtMs ?? 0) + historyStepMs);
  let clock = Math.ceil(began / historyStepMs) * historyStepMs;
  const gatherer = new MachineGatherer(new PlayoutFiles(() => clock, offsetSeconds));
  const writes: Promise<unknown>[] = [];
  for (; clock < nowMs - 5000; clock += historyStepMs) {
    writes.push(writeReadings(store, { machine, tags: {}, take: [] }, clock, await gatherer.gather()));
    if (writes.length >= 200) await Promise.all(writes.splice(0));
  }
  await Promise.all(writes);
}
