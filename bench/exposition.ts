import { PageReader } from "../core/formats/exposition/page-reader.ts";
import { finish, median, report, round, warmRounds } from "./report.ts";

// Reading a page of 10,000 lines whose series are known, beside the plain way: one regular expression a line and a map
// of what was found.
const lines = 10_000;
const rounds = warmRounds + 101;
const page = (turn: number) => {
  const parts: string[] = [];
  for (let family = 0; family < lines / 50; family++) {
    parts.push(
      `# HELP relay_family_${family}_bytes Bytes that the relay sent, by listener and state.\n# TYPE relay_family_${family}_bytes ${family % 2 === 0 ? "counter" : "gauge"}\n`,
    );
    for (let i = 0; i < 50; i++)
      parts.push(
        `relay_family_${family}_bytes{listener="10.0.3.${i}:8000",state="${i % 3 === 0 ? "connected" : "waiting"}",site="studio"} ${i % 4 === 0 ? ((i * 7919 + turn * 13) / 100).toFixed(2) : i * 1_048_576 + turn * 4096}\n`,
      );
  }
  return new TextEncoder().encode(parts.join(""));
};
const pages = Array.from({ length: 8 }, (_, turn) => page(turn));
const bytes = (pages[0] as Uint8Array).length;

const plainLine = /^([a-zA-Z_:][a-zA-Z0-9_:]*)(?:\{([^}]*)\})? (\S+)(?: (\S+))?$/;
function readPlain(text: string): { key: string; value: number }[] {
  const rows: { key: string; value: number }[] = [];
  for (const line of text.split("\n")) {
    if (line === "" || line.startsWith("#")) continue;
    const found = plainLine.exec(line) as RegExpExecArray;
    rows.push({ key: `${found[1]}{${found[2]}}`, value: Number(found[3]) });
  }
  return rows;
}
const known = new Map(readPlain(new TextDecoder().decode(pages[0])).map(({ key }, i) => [key, i]));

const reader = new PageReader("text");
const decoder = new TextDecoder();
let checks = 0;
const times = Array.from({ length: rounds }, (_, i) => {
  const one = pages[i % pages.length] as Uint8Array;
  const began = performance.now();
  const read = reader.read(one);
  const ours = performance.now() - began;
  const again = performance.now();
  const plain = readPlain(decoder.decode(one)).map(({ key, value }) => ({ which: known.get(key), value }));
  const theirs = performance.now() - again;
  if (plain.every(({ which, value }, k) => which === read.which[k] && value === read.value[k])) checks++;
  return { ours, theirs };
}).slice(warmRounds);
if (checks !== rounds) throw new Error("both ways should read the same");
const ours = median(times.map((one) => one.ours));
report(
  "text exposition of known series, against one regular expression a line",
  median(times.map((one) => one.theirs / one.ours)),
  "times",
  { atLeast: 8 },
  `${round(lines / ours / 1000)} million samples, ${round(bytes / ours / 1000)} MB a second`,
);
finish();
