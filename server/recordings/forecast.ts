import { secondsEach } from "../costs/seconds-each.ts";
import type { RecordedSource, RecordingForecast } from "../../core/api/recordings.ts";
import { adviceWords, advisedEverySeconds } from "../../core/recordings/advice.ts";
import { overBudget, runCost } from "../../core/recordings/cost.ts";
import { longestRunSeconds, namedSentences, type RecordingDocument } from "../../core/recordings/recording.ts";
import type { MachineNames } from "../machines/machine-names.ts";
import { answerReading } from "../reading/answer-reading.ts";
import type { Sources } from "../sources/sources.ts";
import type { Store } from "../store/store.ts";
import { recordedSeries } from "./recorded-series.ts";
import { sourcesOf } from "./recorded-sources.ts";

interface ForecastParts {
  readonly store: Store;
  readonly sources: Sources;
  readonly names: MachineNames;
  readonly bytesPerSample: number;
}

/** So often this machine is asked to see what that takes. */
const trials = 9;
const dayMs = 86_400_000;
/** A collector's own account is read over so long. */
const accountMs = 900_000;

/** What a run of a recording would cost, and what is advised; measured where it can be. */
export async function forecastOf(
  { store, sources, names, bytesPerSample }: ForecastParts,
  document: RecordingDocument,
): Promise<RecordingForecast> {
  const { everySeconds } = document;
  const forSeconds = document.forSeconds ?? lengthOfSchedule(document) ?? longestRunSeconds;
  const series = recordedSeries(store, names, document);
  const counters = new Set(Object.values(namedSentences(document.sentences)).map(({ counter }) => counter));
  // What is gathered is committed as well, each time.
  const commit = store.commitSeconds ?? (await secondsEach(() => store.tryCommit(series.length), trials));
  const found = await Promise.all(
    sourcesOf(sources, document, series).map(async (source) => ({
      source,
      ...(await measured(source, { store, sources, counters, everySeconds, commit })),
    })),
  );
  const hasty = found.filter(({ source }) => source.why === null);
  const each = hasty.flatMap(({ seconds }) => (seconds === undefined ? [] : [seconds + commit]));
  const cost = runCost({
    // What keeps a longer interval of its own gives as many fewer.
    series: found.reduce((sum, { source }) => sum + source.series * (everySeconds / source.everySeconds), 0),
    everySeconds,
    forSeconds,
    bytesPerSample,
    serverSecondsEach: each.length === 0 ? Number.NaN : each.reduce((sum, seconds) => sum + seconds, 0),
  });
  const shares = found.map(({ share }) => share ?? 0);
  return {
    series: series.length,
    forSeconds,
    cost: { ...cost, samples: Math.round(cost.samples) },
    sources: found.map(({ source, share, method }): RecordedSource => ({ ...source, share, method })),
    advisedEverySeconds: advisedEverySeconds(forSeconds),
    advice: adviceWords(everySeconds, forSeconds) ?? null,
    over: overBudget(cost, shares.length === 0 ? null : Math.max(...shares)),
  };
}

interface Asked {
  readonly store: Store;
  readonly sources: Sources;
  readonly counters: ReadonlySet<string>;
  readonly everySeconds: number;
  /** Of Nubrel's processor, for the commit after each gathering. */
  readonly commit: number;
}

interface Measured {
  /** Of Nubrel's processor, for one gathering. */
  readonly seconds: number | undefined;
  readonly share: number | null;
  readonly method: string;
}

async function measured(
  { id, series, machine, why }: ReturnType<typeof sourcesOf>[number],
  { store, sources, counters, everySeconds, commit }: Asked,
): Promise<Measured> {
  if (why !== null) return { seconds: undefined, share: null, method: "nothing more is asked of it" };
  const run = sources.find(id);
  const known = sources.hastySecondsOf(id, counters);
  if (known !== undefined && run?.source.kind === "this-machine")
    return {
      seconds: known,
      share: (known + commit) / everySeconds,
      method: "what its last run took; Nubrel gathers it itself, so it is in the figure above",
    };
  if (run?.source.kind === "this-machine") {
    const seconds = await sources.trySecondsOfOwn(counters, trials);
    return {
      seconds,
      share: seconds === undefined ? null : (seconds + commit) / everySeconds,
      method: `it was asked ${trials} times just now; Nubrel gathers it itself, so it is in the figure above`,
    };
  }
  const all = store.series.countOf(id);
  const usual = sources.secondsOf(id);
  const seconds = usual === undefined || all === 0 ? undefined : usual * Math.min(1, series / all);
  if (run?.source.kind === "collector") {
    const nowMs = Date.now();
    const account = await answerReading(store, {
      window: { from: nowMs - accountMs, to: nowMs },
      step: accountMs / 1000,
      sentences: { own: { counter: "nubrel.collector.cpu.time", where: [{ tag: "machine", is: [machine] }] } },
    });
    const share = account.lines[0]?.mean ?? null;
    return {
      seconds,
      share: share === null ? null : share * Math.max(1, run.source.intervalMs / 1000 / everySeconds),
      method:
        share === null
          ? "its collector has not told yet what it takes"
          : "what its collector took in the last 15 min, at this interval; it gathers less while it records",
    };
  }
  const tookMs = run?.view(Date.now()).tookMs ?? null;
  return {
    seconds,
    share: tookMs === null ? null : Math.min(1, tookMs / 1000 / everySeconds),
    method: "at most: as if it worked all the time until it answered",
  };
}

/** How long a schedule's time is, in seconds. */
function lengthOfSchedule({ schedule }: RecordingDocument): number | undefined {
  if (!schedule) return undefined;
  const minutes = (text: string) => Number(text.slice(0, 2)) * 60 + Number(text.slice(3, 5));
  const length = (minutes(schedule.to) - minutes(schedule.from)) * 60;
  return length > 0 ? length : length + dayMs / 1000;
}
