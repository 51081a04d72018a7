import { LRUCache } from "lru-cache";
import type { ReadingAnswer, ReadingDocument } from "../../core/reading/document.ts";
import type { Store } from "../store/store.ts";

/** What names of machines and what is kept may change meanwhile, without a sample. */
const freshMs = 1000;
const mostBytes = 8_000_000;
/** Of one answer with its reading: what is larger is asked for by one page at most. */
const mostBytesOfOne = 400_000;

/** An answer that is being worked out, or was just now. */
interface Answering {
  /** The answer; undefined where whoever worked on it gave up. */
  readonly coming: Promise<string | undefined>;
  /** The same, once it is there. */
  readonly text: string | undefined;
}

/**
 * Answers to the very same reading, as text, for the pages that ask for it in the same moment: those that follow now
 * all move on when samples are stored. They hold until the next samples are.
 */
export class SharedAnswers {
  readonly #answers = new LRUCache<string, Answering>({
    ttl: freshMs,
    maxSize: mostBytes,
    maxEntrySize: mostBytesOfOne,
    sizeCalculation: ({ text = "" }, key) => 2 * (key.length + text.length),
  });
  /** Readings that were checked, by how they were sent. */
  readonly #checked = new LRUCache<string, ReadingDocument>({
    maxSize: mostBytes,
    sizeCalculation: (_, text) => 2 * text.length,
  });

  constructor(store: Pick<Store, "onCommit">) {
    store.onCommit(() => this.#answers.clear());
  }

  /** A reading as `check` makes it; what one page sent is not checked again for the next. Throws what `check` throws. */
  checked(sent: unknown, check: (sent: unknown) => ReadingDocument): ReadingDocument {
    const text = JSON.stringify(sent);
    const known = this.#checked.get(text);
    if (known) return known;
    const document = check(sent);
    this.#checked.set(text, document);
    return document;
  }

  /**
   * The answer to a reading, `answering`, where another page has just asked for it. Where none has, it is on its way
   * from here from now on: `settle` is to be called with the answer, or with none where it will not come. What it gives
   * is the answer as text.
   */
  of(document: ReadingDocument): { readonly answering?: Answering; settle(answer: ReadingAnswer | undefined): string } {
    const key = JSON.stringify(document);
    const known = this.#answers.get(key);
    if (known) return { answering: known, settle: textOf };
    let resolve: (text: string | undefined) => void = () => {};
    const coming = new Promise<string | undefined>((done) => {
      resolve = done;
    });
    const own: Answering = { coming, text: undefined };
    this.#answers.set(key, own);
    let isSettled = false;
    return {
      settle: (answer) => {
        const text = textOf(answer);
        if (isSettled) return text;
        isSettled = true;
        resolve(answer && text);
        if (this.#answers.peek(key) === own) {
          // else samples were stored meanwhile
          if (answer) this.#answers.set(key, { coming, text }, { noUpdateTTL: true });
          else this.#answers.delete(key);
        }
        return text;
      },
    };
  }
}

/**
 * Answers readings in common with other pages: `work` is called with those that nobody is working on, and once more with
 * those that somebody else gave up; `taken` with those that another page has, all that are there already at once.
 * Whatever comes of it, nobody is left waiting for an answer from here.
 */
export async function inCommon(
  shared: SharedAnswers,
  documents: readonly ReadingDocument[],
  work: (own: readonly number[], settle: (i: number, answer?: ReadingAnswer) => string) => Promise<void>,
  taken: (answers: readonly (readonly [i: number, text: string])[]) => Promise<void>,
): Promise<void> {
  const found = documents.map((one) => shared.of(one));
  const settle = (i: number, answer?: ReadingAnswer) => (found[i] as (typeof found)[0]).settle(answer);
  const own = found.flatMap(({ answering }, i) => (answering ? [] : [i]));
  const ready = found.flatMap(({ answering }, i) =>
    answering?.text === undefined ? [] : [[i, answering.text] as const],
  );
  const waiting = found.flatMap(({ answering }, i) =>
    answering && answering.text === undefined ? [[i, answering.coming] as const] : [],
  );
  try {
    if (ready.length > 0) await taken(ready);
    if (own.length > 0) await work(own, settle);
  } finally {
    for (const i of own) settle(i); // of those that are answered this changes nothing
  }
  const left: number[] = [];
  for (const [i, coming] of waiting) {
    const text = await coming;
    if (text === undefined) left.push(i);
    else await taken([[i, text]]);
  }
  if (left.length > 0) await work(left, (_, answer) => textOf(answer));
}

const textOf = (answer: ReadingAnswer | undefined): string => JSON.stringify(answer ?? null);
