import type { Tags } from "../../core/counters/counter.ts";
import { namedSentences, type RecordingDocument } from "../../core/recordings/recording.ts";
import { meets } from "../../core/reading/where.ts";
import type { MachineNames } from "../machines/machine-names.ts";
import { seriesOfSentence } from "../reading/answer-reading.ts";
import { bothHastes, type Haste } from "../sources/haste.ts";
import type { Series } from "../store/series-registry.ts";
import type { Store } from "../store/store.ts";

/** A series that a recording holds, with the names of the sentences that it belongs to. */
export interface RecordedSeries {
  readonly series: Series;
  readonly of: readonly string[];
}

/** The series that a recording holds at present, each once. */
export function recordedSeries(
  store: Store,
  names: MachineNames,
  { sentences }: Pick<RecordingDocument, "sentences">,
): readonly RecordedSeries[] {
  const byId = new Map<number, { series: Series; of: string[] }>();
  const machineTags = names.tagNames();
  for (const [name, sentence] of Object.entries(namedSentences(sentences)))
    for (const series of seriesOfSentence(store, sentence, names, machineTags)) {
      const known = byId.get(series.id);
      if (known) known.of.push(name);
      else byId.set(series.id, { series, of: [name] });
    }
  return [...byId.values()];
}

/** What a recording wants of its sources while it runs, by their numbers. */
export function hastesOf(
  store: Store,
  names: MachineNames,
  document: RecordingDocument,
  untilMs: number,
): ReadonlyMap<number, Haste> {
  const sentences = Object.values(namedSentences(document.sentences));
  const haste: Haste = {
    everyMs: document.everySeconds * 1000,
    untilMs,
    counters: new Set(sentences.map(({ counter }) => counter)),
    wants: (counter: string, tags: Tags) =>
      sentences.some(
        (sentence) =>
          sentence.counter === counter &&
          (sentence.where === undefined || meets(names.tagsWith(tags), sentence.where) || meets(tags, sentence.where)),
      ),
  };
  const sources = new Set(recordedSeries(store, names, document).map(({ series }) => series.sourceId));
  return new Map([...sources].flatMap((id) => (id === undefined ? [] : [[id, haste] as const])));
}

/** What several recordings want together. */
export function joinHastes(all: readonly ReadonlyMap<number, Haste>[]): ReadonlyMap<number, Haste> {
  const joined = new Map<number, Haste>();
  for (const hastes of all)
    for (const [id, haste] of hastes) {
      const known = joined.get(id);
      joined.set(id, known ? bothHastes(known, haste) : haste);
    }
  return joined;
}
