// Prints core/chunk/unpack.ts: one unrolled function for each width, as a loop over widths runs at a quarter of their
// speed.
// `node scripts/generate-unpack.mjs > core/chunk/unpack.ts`; a test compares the file with what this prints.

const perLine = 8;

function unpacker(width) {
  const mask = ` & ${2 ** width - 1}`;
  const words = Array.from({ length: width }, (_, k) => `const w${k} = w[${k === 0 ? "a" : `a + ${k}`}];`);
  const numbers = Array.from({ length: 32 }, (_, i) => {
    const word = (i * width) >> 5;
    const shift = (i * width) & 31;
    const low = shift === 0 ? `w${word}` : `(w${word} >>> ${shift})`;
    if (shift + width === 32) return `o[b + ${i}] = ${width === 32 ? low : low.slice(1, -1)};`;
    if (shift + width < 32) return `o[b + ${i}] = ${low}${mask};`;
    return `o[b + ${i}] = (${low} | (w${word + 1} << ${32 - shift}))${mask};`;
  });
  return `function unpack${width}(w: Uint32Array, a: number, o: Uint32Array, b: number): void {\n${[...rows(words), ...rows(numbers)].join("\n")}\n}`;
}

function rows(parts) {
  const lines = [];
  for (let i = 0; i < parts.length; i += perLine) lines.push(`  ${parts.slice(i, i + perLine).join(" ")}`);
  return lines;
}

export const unpackSource = `// Made by scripts/generate-unpack.mjs; do not edit by hand.

/**
 * \`unpackers[width](words, at, into, from)\` unpacks 32 numbers of \`width\` bits, low bits first, from \`words[at]\`
 * on into \`into[from]\` and the 31 after it.
 */
export const unpackers: readonly ((words: Uint32Array, at: number, into: Uint32Array, from: number) => void)[] = [
  (_words, _at, into, from) => void into.fill(0, from, from + 32),
${rows(Array.from({ length: 32 }, (_, i) => `unpack${i + 1},`)).join("\n")}
];

${Array.from({ length: 32 }, (_, i) => unpacker(i + 1)).join("\n\n")}
`;

if (process.argv[1]?.endsWith("generate-unpack.mjs")) process.stdout.write(unpackSource);
