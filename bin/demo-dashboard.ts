import { type Dashboard, emptyDashboard, type Tile } from "../core/dashboards/dashboard.ts";
import type { Sentence } from "../core/reading/document.ts";
import { filesystemUsed, memoryUsed, poolUsed, processorBusy } from "../core/reading/common-readings.ts";
import { insertDashboard } from "../server/dashboards/dashboard-rows.ts";
import type { Database } from "../server/db/pool.ts";

const at = (x: number, y: number, width: number, height: number) => ({ x, y, width, height });
const reading = (
  sentences: Readonly<Record<string, Sentence>>,
  figure?: string,
  unit?: string,
): NonNullable<Tile["reading"]> => ({
  sentences,
  ...(figure !== undefined && { figure }),
  ...(unit !== undefined && { unit }),
});
const of = (machine: string) => [{ tag: "machine", is: [machine] }];

/** What somebody of the station put together for the shelf in the studio. */
const onAir: Dashboard = {
  ...emptyDashboard("On air"),
  description: "What must be well before the morning show.",
  tags: ["studio"],
  start: { lastSeconds: 86_400, everySeconds: 60 },
  pickers: [{ id: "machine", tag: "machine", choose: "several" }],
  tiles: [
    {
      id: "tile-1",
      title: "Before the show",
      kind: "note",
      place: at(0, 0, 3, 6),
      ignores: ["machine"],
      text: "- [x] Playout has **{free}** of memory free\n- [x] Battery at **{charge %}**\n- [ ] Archive is {archive} full: order drives\n\nCall Bo when the link to the mast is down for more than ten minutes.",
      reading: reading({
        free: { counter: "system.memory.usage", where: [...of("playout"), { tag: "state", is: ["free"] }] },
        charge: { counter: "hw.battery.charge", lines: "together", combine: "min" },
        archive: {
          counter: "storage.pool.usage",
          where: [
            { tag: "pool", is: ["archive"] },
            { tag: "state", is: ["used"] },
          ],
          lines: "together",
          combine: "sum",
        },
      }),
    },
    {
      id: "tile-2",
      title: "Processor",
      kind: "dial",
      place: at(3, 0, 5, 6),
      reading: processorBusy(),
      limits: [{ at: 75, compare: "above", severity: "notice" }],
      meter: { order: "highest" },
      most: 2,
    },
    {
      id: "tile-3",
      title: "Pools",
      kind: "meter",
      place: at(8, 0, 4, 6),
      reading: poolUsed(),
      limits: [
        { at: 80, compare: "above", severity: "notice" },
        { at: 90, compare: "above", severity: "urgent" },
      ],
    },
    {
      id: "tile-4",
      title: "Network, every machine",
      kind: "lines",
      place: at(0, 6, 8, 6),
      reading: reading(
        {
          bytes: {
            counter: "system.network.io",
            lines: { per: ["machine"] },
            combine: "sum",
            keep: { highest: 5, by: "max" },
          },
        },
        "bytes * 8",
        "bit/s",
      ),
      limits: [{ at: 80e6, compare: "above", severity: "urgent" }],
    },
    {
      id: "tile-5",
      title: "Tapes carried over, by shelf",
      kind: "meter",
      place: at(8, 6, 4, 6),
      table: {
        columns: [
          { name: "shelf", kind: "text" },
          { name: "done", kind: "number" },
          { name: "tapes", kind: "number" },
        ],
        rows: [
          ["interviews", 212, 240],
          ["concerts", 96, 310],
          ["jingles", 58, 60],
          ["unlabelled", null, 40],
        ],
      },
      meter: { max: { column: "tapes" }, orientation: "lying", none: "not begun" },
    },
    {
      id: "tile-6",
      title: "Containers",
      kind: "states",
      place: at(0, 12, 4, 6),
      ignores: ["machine"],
      reading: reading({
        runs: { counter: "container.state.running", lines: { per: ["container"] }, combine: "min", of_every: "last" },
      }),
      states: [
        { from: 0, words: "stopped", signal: "notice" },
        { from: 1, words: "runs" },
      ],
    },
    {
      id: "tile-7",
      title: "Memory used",
      kind: "top",
      place: at(4, 12, 4, 6),
      reading: memoryUsed(),
      limits: [{ at: 90, compare: "above", severity: "urgent" }],
    },
    {
      id: "tile-8",
      title: "Filesystems",
      kind: "table",
      place: at(8, 12, 4, 6),
      reading: filesystemUsed(),
      limits: [{ at: 80, compare: "above", severity: "notice" }],
    },
  ],
};

/** Made once: who removes it has removed it. */
export async function makeSampleDashboard(database: Database): Promise<void> {
  const { rows } = await database.query("select 1 from dashboard limit 1");
  if (rows.length === 0) await insertDashboard(database, onAir, "Bo");
}
