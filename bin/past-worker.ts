import { parentPort, workerData } from "node:worker_threads";
import { Growing } from "../core/series/growing-columns.ts";
import type { FileSeries } from "../core/pages/file-series.ts";
import { parseEngineEvent } from "../core/formats/containers/engine.ts";
import { StreamEngine } from "../standins/devices/stream-host.ts";
import { World } from "../standins/world/world.ts";
import { pastReaders, stepAt } from "./demo-past.ts";
import type { WorldSource } from "./demo-sources.ts";

/**
 * What a source gave in a stretch of the past; `fresh` are the series that come for the first time, after those before.
 */
export interface PastPart {
  readonly source: WorldSource;
  readonly fresh: readonly FileSeries[];
  readonly which: Uint32Array;
  readonly timeMs: Float64Array;
  readonly value: Float64Array;
}

export interface PastStretch {
  readonly untilSeconds: number;
  readonly parts: readonly PastPart[];
  readonly fromSeconds: number;
  readonly events: readonly {
    readonly atMs: number;
    readonly kind: string;
    readonly text: string;
    readonly container: string;
  }[];
  readonly isLast: boolean;
}

const stretchSeconds = 7200;
const port = parentPort;
const { began, offsetSeconds, from, to } = workerData as {
  began: number;
  offsetSeconds: number;
  from: number;
  to: number;
};
const world = new World(began, offsetSeconds);
const readers = Object.entries(pastReaders(world)) as [WorldSource, ReturnType<typeof pastReaders>[WorldSource]][];
const engine = new StreamEngine(world);
const sent = new Map<WorldSource, number>();
/** Stretches that wait to be stored: more are not made ahead. */
let waiting = 0;
let goOn: () => void = () => {};
port?.on("message", () => {
  waiting--;
  goOn();
});

for (let start = from; start < to; ) {
  const end = Math.min(to, (Math.floor(start / stretchSeconds) + 1) * stretchSeconds);
  const moments: number[] = [];
  for (let at = start; at < end; ) {
    const step = stepAt(at, world, to);
    const aligned = Math.ceil(at / step) * step;
    if (aligned < end) moments.push(aligned);
    at = aligned + step;
  }
  const parts: PastPart[] = [];
  for (const [source, reader] of readers) {
    const columns = new Growing();
    for (const moment of moments) {
      const page = await reader.read(moment);
      if (page) columns.add(page);
    }
    const known = sent.get(source) ?? 0;
    sent.set(source, reader.series.length);
    parts.push({ source, fresh: reader.series.slice(known), ...columns.take() });
  }
  const events = engine
    .events(start, end)
    .map(parseEngineEvent)
    .filter((event) => event !== undefined)
    .map(({ atMs, kind, text, name }) => ({ atMs, kind: `container ${kind}`, text, container: name }));
  waiting++;
  port?.postMessage(
    { fromSeconds: start, untilSeconds: end, parts, events, isLast: end >= to } satisfies PastStretch,
    parts.flatMap(({ which, timeMs, value }) => [which.buffer, timeMs.buffer, value.buffer] as ArrayBuffer[]),
  );
  if (waiting >= 3) await new Promise<void>((resolve) => (goOn = resolve));
  start = end;
}
