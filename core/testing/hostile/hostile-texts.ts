/**
 * Shapes of text that have made readers slow: one sign over and over, openings without an end, numbers without a limit.
 * Each gives a text of about so many bytes.
 */
export const hostileTexts: Readonly<Record<string, (bytes: number) => string>> = {
  blanks: (n) => " ".repeat(n),
  tabs: (n) => "\t".repeat(n),
  "line ends": (n) => "\n".repeat(n),
  "carriage returns": (n) => "\r".repeat(n),
  "one letter": (n) => "a".repeat(n),
  digits: (n) => "9".repeat(n),
  "a name and digits": (n) => `a ${"9".repeat(n)}x`,
  "a name and a negative number without an end": (n) => `a -${"1".repeat(n / 2)}.${"1".repeat(n / 2)}e`,
  points: (n) => ".".repeat(n),
  quotes: (n) => '"'.repeat(n),
  "one quote, then lines": (n) => `"${"abc,def\n".repeat(n / 8)}`,
  "a quote a line": (n) => '"abc\n'.repeat(n / 5),
  "opening brackets": (n) => "[".repeat(n),
  "opening braces": (n) => "{".repeat(n),
  "opening parentheses": (n) => "(".repeat(n),
  "pairs of parentheses": (n) => "()".repeat(n / 2),
  "nested lists": (n) => `${"[".repeat(n / 2)}${"]".repeat(n / 2)}`,
  "nested objects": (n) => `${'{"a":'.repeat(n / 6)}1${"}".repeat(n / 6)}`,
  "a heading of blanks": (n) => `time,a${" ".repeat(n)}b\n2026-11-23T10:00:00Z,1\n`,
  "a heading of brackets": (n) => `time,${"[".repeat(n)}\n2026-11-23T10:00:00Z,1\n`,
  "a counter log's heading": (n) =>
    `"(PDH-CSV 4.0) (CET)(-60)","\\\\D\\${"[".repeat(n / 2)}${"(".repeat(n / 2)}"\n"11/23/2026 10:00:00.000","1"\n`,
  backslashes: (n) => "\\".repeat(n),
  "backslashes in a heading": (n) => `"(PDH-CSV 4.0)","\\\\a${"\\".repeat(n)}"\n"11/23/2026 10:00:00.000","1"\n`,
  commas: (n) => ",".repeat(n),
  equals: (n) => "a=1 ".repeat(n / 4),
  labels: (n) => `a{${Array.from({ length: n / 12 }, (_, i) => `l${i}="${i}"`).join(",")}} 1\n`,
  "a label without an end": (n) => `a{b="${"\\\\".repeat(n / 2)}`,
  types: (n) => Array.from({ length: n / 16 }, (_, i) => `# TYPE a${i} gauge`).join("\n"),
  "a remark of blanks": (n) => `#${" ".repeat(n)}`,
  "samples of new names": (n) => Array.from({ length: n / 10 }, (_, i) => `n${i} ${i}`).join("\n"),
  buckets: (n) =>
    `# TYPE a histogram\n${Array.from({ length: n / 24 }, (_, i) => `a_bucket{le="${i}"} ${i}`).join("\n")}`,
  domains: (n) =>
    `Domain: 'a'\nnet.count=99999999999999999999\nblock.count=99999999999999999999\n${"net.0.name=x\n".repeat(n / 13)}`,
  "colons and blanks": (n) => ": ".repeat(n / 2),
  "arrays of disks": (n) => "md0 : active\n".repeat(n / 13),
  "a device's report": (n) =>
    `{"device-stats":[${Array.from({ length: n / 26 }, () => '{"write_io_errs":"1"}').join(",")}]}`,
  "signs of four bytes": (n) => "🦅".repeat(n / 4),
  "halves of signs": (n) => "\ud83e".repeat(n / 3),
  "zero bytes": (n) => "\0".repeat(n),
  "minus signs": (n) => "-".repeat(n),
  operators: (n) => `a${"+a".repeat(n / 2)}`,
  negations: (n) => `${"-".repeat(n)}a`,
  calls: (n) => `${"abs(".repeat(n / 5)}a${")".repeat(n / 5)}`,
  stars: (n) => "*a".repeat(n / 2),
  times: (n) => `time,a\n${"2026-11-23T10:00:00".padEnd(n, "0")},1\n`,
  "JSON lines of one series": (n) =>
    `{"counter":"a","unit":"1","kind":"level","tags":{},"times":[${"1,".repeat(n / 4)}1],"values":[${"1,".repeat(n / 4)}1]}`,
  "a page of exemplars": (n) => `# TYPE a counter\n${'a_total 1 # {t="x"} 1\n'.repeat(n / 22)}# EOF\n`,
};
