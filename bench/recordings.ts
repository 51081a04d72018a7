import { setTimeout as delay } from "node:timers/promises";
import type { CounterView } from "../core/api/counters.ts";
import type { RecordingForecast, RecordingView, RunView } from "../core/api/recordings.ts";
import { finish, median, report } from "./report.ts";
import { agent, processorSeconds, serve } from "./served.ts";

// A run of twenty counters of this machine every second, and one of all that can be recorded: what each takes of a
// core, and how near to that what was told beforehand comes. Windows with the one, with the other and without any
// follow one another several times, each is cut into slices, and the median of the slices counts: what the server does
// of itself now and then takes half a second, which is a hundred times a gathering, and falls into one or two of them.
const counters = 20;
const rounds = 3;
/** A minute after the start the server reads ahead what is usual; its code is compiled by then. */
const warmMs = 75_000;
const windowMs = 60_000;
/** Whole gatherings as they are usual fall into each. */
const sliceMs = 10_000;
/** A run's first seconds, and putting its samples apart once it has ended, count to neither. */
const betweenMs = 45_000;
const leadMs = 3000;
/** This machine is gathered as it is by default: what that takes of late, storing included, is what a forecast knows. */
const usualMs = 10_000;

const { server, ask } = await serve("bench_recordings", usualMs);
const pid = server.pid as number;
/** Of a core, in each slice of a window. */
async function sharesOfWindow(): Promise<readonly number[]> {
  const shares: number[] = [];
  let [before, beganMs] = [processorSeconds(pid), performance.now()];
  for (let i = 0; i < windowMs / sliceMs; i++) {
    await delay(sliceMs);
    const [after, endedMs] = [processorSeconds(pid), performance.now()];
    shares.push((after - before) / ((endedMs - beganMs) / 1000));
    [before, beganMs] = [after, endedMs];
  }
  return shares;
}

/** A recording of these counters: what was told of it each time, and what its windows took. */
async function recordingOf(name: string, chosen: readonly string[]) {
  const document = {
    name,
    everySeconds: 1,
    forSeconds: (leadMs + windowMs) / 1000 + 2,
    sentences: chosen.map((counter) => ({ counter })),
  };
  const { body: made } = (await ask("POST", "/api/recordings", document)) as { body: RecordingView };
  const told: number[] = [];
  const took: number[] = [];
  let last: { readonly forecast: RecordingForecast; readonly run: number } | undefined;
  return {
    told,
    took,
    async run(): Promise<void> {
      const { body: forecast } = (await ask("POST", "/api/recordings/forecast", document)) as {
        body: RecordingForecast;
      };
      told.push(forecast.cost.serverShare ?? 0);
      const { body: run } = (await ask("POST", `/api/recordings/${made.id}/runs`, {})) as { body: { id: number } };
      last = { forecast, run: run.id };
      await delay(leadMs);
      took.push(...(await sharesOfWindow()));
      await delay(betweenMs);
    },
    /** Samples told beforehand, of those the last run took. */
    async samplesTold(): Promise<number> {
      if (!last) return Number.NaN;
      const { body } = (await ask("GET", `/api/recordings/${made.id}/runs/${last.run}`)) as { body: RunView };
      return last.forecast.cost.samples / body.samples;
    },
    lines: () => last?.forecast.series ?? 0,
  };
}

try {
  await delay(5000);
  const { body: known } = (await ask("GET", "/api/counters")) as { body: readonly CounterView[] };
  const names = known.filter(({ name }) => /^(system|hw)\./.test(name)).map(({ name }) => name);
  const some = await recordingOf("some", names.slice(0, counters));
  const whole = await recordingOf("whole", names);
  const without: number[] = [];
  await delay(warmMs);
  await some.run();
  some.told.length = some.took.length = 0;
  for (let i = 0; i < rounds; i++) {
    await whole.run();
    without.push(...(await sharesOfWindow()));
    await some.run();
  }
  const percents = (figures: readonly number[]) => figures.map((figure) => (figure * 100).toFixed(2)).join(" ");
  const taken = ({ took }: typeof some) => median(took) - median(without);
  report(
    "a run every second, of a core beyond what it takes without",
    taken(some) * 100,
    "%",
    { atMost: 1 },
    `${Math.min(counters, names.length)} counters, ${some.lines()} lines; ${percents(some.took)}, without ${percents(without)}`,
  );
  const within = { atLeast: 0.8, atMost: 1.25 };
  report("samples told beforehand, of those it took", await some.samplesTold(), "×", within);
  for (const [recording, what] of [
    [some, `${Math.min(counters, names.length)} counters`],
    [whole, `${names.length} counters`],
  ] as const) {
    const told = median(recording.told);
    report(
      `processor told beforehand, of what was taken: ${what}`,
      told / taken(recording),
      "×",
      within,
      `${recording.lines()} lines; told ${percents(recording.told)}, with it ${percents(recording.took)}`,
    );
  }
} finally {
  await server.stop();
  await agent.close();
}
finish();
