import { Router } from "express";
import type { CounterView, MachineDetail, MachineView, SeriesView } from "../../core/api/views.ts";
import { catalogue } from "../../core/counters/catalogue.ts";
import type { Store } from "../store/store.ts";
import { Problem } from "./problem.ts";

/** A source is late after this many intervals without an answer, and silent after this many. */
const lateAfter = 2;
const silentAfter = 3;

/** What there is: machines, counters and their series. */
export function machinesRouter(store: Store, intervalMs: number): Router {
  const router = Router();

  router.get("/machines", (_request, response) => {
    response.json(listMachines(store, intervalMs, Date.now()));
  });

  router.get("/machines/:name", (request, response) => {
    const machine = listMachines(store, intervalMs, Date.now()).find(({ name }) => name === request.params.name);
    if (!machine) throw new Problem(404, "No such machine", `No machine named "${request.params.name}" has reported here.`);
    const counters = new Set<string>();
    for (const { counter, tags } of store.series.all()) if (tags["machine"] === machine.name) counters.add(counter);
    response.json({ ...machine, counters: [...counters] } satisfies MachineDetail);
  });

  router.get("/counters", (_request, response) => {
    const counts = new Map<string, number>();
    for (const { counter } of store.series.all()) counts.set(counter, (counts.get(counter) ?? 0) + 1);
    response.json(
      [...counts].map(([name, series]): CounterView => {
        const one = store.series.ofCounter(name)[0];
        const info = catalogue.get(name) ?? { name, words: name, explains: "", unit: one?.unit ?? "1", kind: one?.kind ?? "level" };
        return { ...info, series };
      }),
    );
  });

  router.get("/counters/:name/series", (request, response) => {
    response.json(store.series.ofCounter(request.params.name).map(({ id, tags }): SeriesView => ({ id, tags })));
  });
  return router;
}

function listMachines(store: Store, intervalMs: number, nowMs: number): readonly MachineView[] {
  const found = new Map<string, { series: number; last: number }>();
  for (const { id, tags } of store.series.all()) {
    const name = tags["machine"];
    if (name === undefined) continue;
    const one = found.get(name) ?? { series: 0, last: Number.NEGATIVE_INFINITY };
    found.set(name, { series: one.series + 1, last: Math.max(one.last, store.lastTimeMs(id) ?? Number.NEGATIVE_INFINITY) });
  }
  return [...found]
    .map(([name, { series, last }]): MachineView => {
      const silentMs = nowMs - last;
      const state = silentMs > silentAfter * intervalMs ? "silent" : silentMs > lateAfter * intervalMs ? "late" : "reporting";
      return { name, state, lastSampleAtMs: Number.isFinite(last) ? last : null, intervalSeconds: intervalMs / 1000, series };
    })
    .sort((a, b) => a.name.localeCompare(b.name));
}
