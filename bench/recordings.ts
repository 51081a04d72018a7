import { setTimeout as delay } from "node:timers/promises";
import type { CounterView } from "../core/api/counters.ts";
import type { RecordingForecast, RecordingView, RunView } from "../core/api/recordings.ts";
import { finish, report } from "./report.ts";
import { agent, processorSeconds, serve } from "./served.ts";

// A run of twenty counters of this machine every second: what it takes of a core, and how near to that what was told
// beforehand comes.
const counters = 20;
/** A minute after the start the server reads ahead what is usual; its code is compiled by then. */
const warmMs = 75_000;
const measuredMs = 90_000;
/** Its samples are kept apart a little after its end. */
const keptMs = 35_000;
const longMs = 105_000;
const figure = (share: number) => `${(share * 100).toFixed(2)} %`;

const { server, ask } = await serve("bench_recordings");
const pid = server.pid as number;
async function shareOver(ms: number): Promise<number> {
  const before = processorSeconds(pid);
  await delay(ms);
  return (processorSeconds(pid) - before) / (ms / 1000);
}

try {
  await delay(5000);
  const { body: known } = (await ask("GET", "/api/counters")) as { body: readonly CounterView[] };
  const names = known.filter(({ name }) => /^(system|hw)\./.test(name)).map(({ name }) => name);
  const recording = {
    name: "bench",
    everySeconds: 1,
    forSeconds: (warmMs + measuredMs) / 1000,
    sentences: names.slice(0, counters).map((counter) => ({ counter })),
  };
  const { body: made } = (await ask("POST", "/api/recordings", recording)) as { body: RecordingView };
  await delay(warmMs);
  const { body: told } = (await ask("POST", "/api/recordings/forecast", recording)) as { body: RecordingForecast };
  const { body: run } = (await ask("POST", `/api/recordings/${made.id}/runs`, {})) as { body: { id: number } };
  await delay(warmMs);
  const running = await shareOver(measuredMs);
  await delay(keptMs);
  const taken = running - (await shareOver(measuredMs));
  const found = `${Math.min(counters, names.length)} counters, ${told.series} lines`;
  report("a run every second, of a core beyond what it takes without", taken * 100, "%", { atMost: 1 }, found);
  const { body: report1 } = (await ask("GET", `/api/recordings/${made.id}/runs/${run.id}`)) as { body: RunView };
  report("samples told beforehand, of those it took", told.cost.samples / report1.samples, "×", {
    atLeast: 0.8,
    atMost: 1.25,
  });
  report("processor told beforehand, of a core", (told.cost.serverShare ?? 0) * 100, "%", {});
  // One run is little beside what the server does anyway: told is compared with taken at the most that can be recorded.
  const whole = {
    name: "whole",
    everySeconds: 1,
    forSeconds: longMs / 1000,
    sentences: names.map((counter) => ({ counter })),
  };
  const { body: all } = (await ask("POST", "/api/recordings", whole)) as { body: RecordingView };
  const { body: toldOfAll } = (await ask("POST", "/api/recordings/forecast", whole)) as { body: RecordingForecast };
  await ask("POST", `/api/recordings/${all.id}/runs`, {});
  await delay(10_000);
  const takenOfAll = (await shareOver(longMs - 15_000)) - (running - taken);
  report(
    "processor told beforehand, of what was taken",
    (toldOfAll.cost.serverShare ?? 0) / takenOfAll,
    "×",
    {
      atLeast: 0.8,
      atMost: 1.25,
    },
    `${names.length} counters, ${toldOfAll.series} lines, ${figure(takenOfAll)} of a core`,
  );
} finally {
  await server.stop();
  await agent.close();
}
finish();
