/** What Nubrel watches of itself for slowness, each with its words and how long it may take. */
export const slowKinds = {
  reading: { word: "reading", one: "A reading", several: "Readings", limitMs: 1000 },
  flush: { word: "commit", one: "A commit of samples", several: "Commits of samples", limitMs: 500 },
  job: { word: "job", one: "A job", several: "Jobs", limitMs: 30_000 },
  request: { word: "request", one: "A request", several: "Requests", limitMs: 1000 },
} as const satisfies Readonly<
  Record<string, { readonly word: string; readonly one: string; readonly several: string; readonly limitMs: number }>
>;
export type SlowKind = keyof typeof slowKinds;
