import type { ReadingDocument } from "../core/reading/document.ts";
import { evaluateReading, type SeriesColumn } from "../core/reading/evaluate.ts";

const rounds = 21;

// What answering a reading costs once its samples are in memory, for growing numbers of series: six hours of readings
// every 5 s.
const samples = (6 * 3600) / 5;
const end = 1_795_000_000_000;
const start = end - samples * 5000;
const document: ReadingDocument = {
  window: { from: start, to: end },
  points: 360,
  sentences: { busy: { counter: "system.cpu.time", lines: { per: ["machine"] } } },
};
let perSample = 0;
for (const series of [1, 10, 100]) {
  const fetched: SeriesColumn[] = Array.from({ length: series }, (_, i) => ({
    tags: { machine: `m${i % 10}`, mode: `mode${i}` },
    unit: "s",
    kind: "total",
    column: {
      timeMs: Float64Array.from({ length: samples }, (_, k) => start + k * 5000),
      value: Float64Array.from({ length: samples }, (_, k) => k * 1.25),
    },
  }));
  const times = Array.from({ length: rounds }, () => {
    const began = performance.now();
    evaluateReading(document, { busy: fetched });
    return performance.now() - began;
  }).sort((a, b) => a - b);
  const median = times[rounds >> 1] as number;
  const cost = (median * 1e6) / (series * samples);
  const ratio = perSample === 0 ? 1 : cost / perSample;
  perSample ||= cost;
  console.log(
    `reading ${series} series of ${samples} samples into 360 steps: median ${median.toFixed(2)} ms, ${cost.toFixed(0)} ns a sample, ${ratio.toFixed(2)} times the cost a sample of one series`,
  );
}
