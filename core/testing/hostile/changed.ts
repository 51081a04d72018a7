const pieces = [
  "\0",
  "\n",
  "\r\n",
  '"',
  "\\",
  "{",
  "}",
  "[",
  "]",
  ",",
  "=",
  ":",
  " ",
  "-",
  "1e999",
  "NaN",
  "null",
  "true",
  "[]",
  "{}",
  "-1",
  "99999999999999999999",
  "__proto__",
  "constructor",
  "\ufeff",
  "\ud83e",
  "🦅",
  "# EOF\n",
  '""',
  "0x10",
  "1e-400",
  ".",
  "1795449600",
  "%",
  "/../",
].map((piece) => new TextEncoder().encode(piece));
const longest = 20_000;

/** A text changed in a few places: bytes turned, pieces put in, cut out, doubled or put elsewhere. */
export function changed(seed: Uint8Array, random: () => number): Uint8Array {
  let bytes = seed;
  const at = () => Math.floor(random() * (bytes.length + 1));
  for (let times = 1 + Math.floor(random() * 4); times > 0; times--) {
    const [from, to] = [at(), at()].sort((a, b) => a - b) as [number, number];
    switch (Math.floor(random() * 6)) {
      case 0: {
        bytes = Uint8Array.from(bytes);
        if (bytes.length > 0) bytes[Math.min(from, bytes.length - 1)] = Math.floor(random() * 256);
        break;
      }
      case 1:
        bytes = joined(
          bytes.subarray(0, from),
          pieces[Math.floor(random() * pieces.length)] as Uint8Array,
          bytes.subarray(from),
        );
        break;
      case 2:
        bytes = joined(bytes.subarray(0, from), bytes.subarray(Math.min(to, from + 40)));
        break;
      case 3:
        bytes = joined(bytes.subarray(0, to), bytes.subarray(from, Math.min(to, from + 200)), bytes.subarray(to));
        break;
      case 4:
        bytes = joined(
          bytes.subarray(0, from),
          pieces[Math.floor(random() * pieces.length)] as Uint8Array,
          bytes.subarray(Math.min(to, from + 12)),
        );
        break;
      default:
        bytes = bytes.subarray(0, random() < 0.2 ? from : bytes.length);
    }
  }
  return bytes.length > longest ? bytes.slice(0, longest) : bytes;
}

function joined(...parts: readonly Uint8Array[]): Uint8Array {
  const all = new Uint8Array(parts.reduce((sum, { length }) => sum + length, 0));
  let at = 0;
  for (const part of parts) {
    all.set(part, at);
    at += part.length;
  }
  return all;
}
