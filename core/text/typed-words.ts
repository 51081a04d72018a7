/** Words that ask and say nothing of what is looked for. */
const asking = new Set([
  "how",
  "is",
  "are",
  "what",
  "which",
  "where",
  "the",
  "a",
  "an",
  "of",
  "in",
  "on",
  "my",
  "much",
  "many",
  "does",
  "do",
  "by",
]);

/** What people say for what is called otherwise here. */
const alike: readonly (readonly string[])[] = [
  ["hot", "heat", "warm", "temp", "temperature"],
  ["cpu", "core", "processor"],
  ["busy", "usage", "used", "utilisation", "utilization", "load", "busy"],
  ["ram", "mem", "memory"],
  ["swap", "swapping", "paging"],
  ["disk", "hdd", "ssd", "nvme", "drive"],
  ["volume", "mount", "partition", "filesystem"],
  ["full", "space", "capacity", "fills", "filesystem"],
  ["net", "traffic", "bandwidth", "lan", "network"],
  ["vm", "vms", "guest"],
  ["containers", "container"],
  ["server", "host", "box", "computer", "machine"],
  ["watt", "watts", "electricity", "power", "energy"],
  ["price", "money", "bill", "cost", "costs"],
  ["battery", "mains", "ups", "supply"],
  ["fan", "fans", "rpm", "fan"],
  ["alarm", "alert", "warning", "rule", "incident"],
  ["mail", "message", "notify", "told", "recipient"],
  ["mute", "maintenance", "silence", "quiet"],
  ["add", "new", "create", "make", "connect"],
  ["dark", "night"],
  ["light", "day"],
  ["key", "password", "token"],
  ["certificate", "https", "tls", "transport", "reached"],
];

/** A typed word, and what else may be meant by it. */
export interface TypedWord {
  readonly word: string;
  readonly others: readonly string[];
}

/** What is typed into a search, word by word and in no order; words that only ask are left out where others remain. */
export function typedWords(typed: string): readonly TypedWord[] {
  const all = typed.toLowerCase().split(/\s+/).filter(Boolean);
  const telling = all.filter((word) => !asking.has(word));
  return (telling.length > 0 ? telling : all).map((word) => ({
    word,
    others: [...new Set(alike.filter((words) => words.includes(word)).flat())].filter((other) => other !== word),
  }));
}

/**
 * How well a text answers to what is typed, 0 to 1: 0 where a word is nowhere in it. A word that begins one of the text's
 * counts most, one within it less, one that is said otherwise least.
 */
export function answersTo(typed: readonly TypedWord[], text: string): number {
  const lower = text.toLowerCase();
  let sum = 0;
  for (const { word, others } of typed) {
    const score = Math.max(found(lower, word), ...others.map((other) => 0.7 * found(lower, other)));
    if (score === 0) return 0;
    sum += score;
  }
  return typed.length === 0 ? 1 : sum / typed.length;
}

function found(text: string, word: string): number {
  let best = 0;
  for (let at = text.indexOf(word); at >= 0 && best < 1; at = text.indexOf(word, at + 1))
    best = Math.max(best, at === 0 || !/[a-z0-9]/.test(text[at - 1] as string) ? 1 : 0.5);
  return best;
}
