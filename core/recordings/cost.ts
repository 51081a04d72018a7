/** What is known beforehand of a run. */
export interface RunFacts {
  readonly series: number;
  readonly everySeconds: number;
  readonly forSeconds: number;
  /** What a sample takes in the store, as it is kept now. */
  readonly bytesPerSample: number;
  /** Processor seconds that Nubrel needs to gather and store them once: measured. NaN where it was not. */
  readonly serverSecondsEach: number;
}

/** What a run costs. */
export interface RunCost {
  readonly samples: number;
  /** On the disk: in the store, where they stand among the others, and once more with the run. */
  readonly bytes: number;
  /** Of one processor core, from 0; null where it was not measured. */
  readonly serverShare: number | null;
}

/** A run that is over one of these is asked about before it begins. */
const runBudget = { samples: 5_000_000, bytes: 50_000_000, share: 0.05 } as const;

/** Works out what a run costs: samples are series times intervals, begun ones included. */
export function runCost({ series, everySeconds, forSeconds, bytesPerSample, serverSecondsEach }: RunFacts): RunCost {
  const samples = series * Math.ceil(forSeconds / everySeconds);
  return {
    samples,
    bytes: Math.round(samples * bytesPerSample * 2),
    serverShare: Number.isNaN(serverSecondsEach) ? null : serverSecondsEach / everySeconds,
  };
}

/** What of a cost is over the budget, in words; empty where nothing is. `machineShare` is of a core of the machine that is gathered. */
export function overBudget({ samples, bytes, serverShare }: RunCost, machineShare: number | null): readonly string[] {
  const over: string[] = [];
  const whole = (n: number) => Math.round(n).toLocaleString("en");
  if (samples > runBudget.samples)
    over.push(`${whole(samples)} samples; more than ${whole(runBudget.samples)} are asked about`);
  if (bytes > runBudget.bytes)
    over.push(`${whole(bytes / 1e6)} MB of disk; more than ${whole(runBudget.bytes / 1e6)} MB are asked about`);
  const percent = (share: number) => `${Math.round(share * 1000) / 10} % of a core`;
  if ((serverShare ?? 0) > runBudget.share)
    over.push(`${percent(serverShare as number)} here; more than ${percent(runBudget.share)} are asked about`);
  if ((machineShare ?? 0) > runBudget.share)
    over.push(`${percent(machineShare as number)} there; more than ${percent(runBudget.share)} are asked about`);
  return over;
}
