import { utf8Text } from "../../text/utf8.ts";

/** The Encoding standard's decoder, which every runtime has; core knows no runtime's types. */
declare const TextDecoder: new (label: string) => { decode(bytes: Uint8Array): string };

/** A text and how its letters were written. */
export interface DecodedText {
  readonly text: string;
  readonly encoding: "utf-8" | "utf-16le" | "utf-16be" | "windows-1252" | (string & {});
}

const looksAt = 4096;

/**
 * The text of a table: by its byte order mark, by zero bytes between its letters (UTF-16), as UTF-8 where it is that,
 * else by the code page that Windows and sheets use in the west.
 * `charset` is what the sender says, by a name of the Encoding standard; one that is not known says nothing.
 */
export function tableText(bytes: Uint8Array, charset?: string): DecodedText {
  const marked = markedEncoding(bytes) ?? wideEncoding(bytes);
  if (marked) return { text: new TextDecoder(marked).decode(bytes), encoding: marked };
  const plain = utf8Text(bytes);
  if (plain !== undefined) return { text: plain, encoding: "utf-8" };
  const said =
    charset === undefined || /^(utf-?8|windows-1252|cp1252|iso-8859-1|latin1)$/i.test(charset)
      ? undefined
      : decoderOf(charset);
  return said
    ? { text: said.decode(bytes), encoding: (charset as string).toLowerCase() }
    : { text: westernText(bytes), encoding: "windows-1252" };
}

function markedEncoding([first, second]: Uint8Array): "utf-16le" | "utf-16be" | undefined {
  if (first === 0xff && second === 0xfe) return "utf-16le";
  return first === 0xfe && second === 0xff ? "utf-16be" : undefined;
}

/** Without a mark: letters of western languages have a zero byte each, on the same side. */
function wideEncoding(bytes: Uint8Array): "utf-16le" | "utf-16be" | undefined {
  const head = bytes.subarray(0, looksAt);
  let [even, odd] = [0, 0];
  for (let i = 0; i < head.length; i++) if (head[i] === 0) i % 2 === 0 ? even++ : odd++;
  if (odd > head.length / 4 && odd > 8 * even) return "utf-16le";
  return even > head.length / 4 && even > 8 * odd ? "utf-16be" : undefined;
}

function decoderOf(label: string): { decode(bytes: Uint8Array): string } | undefined {
  try {
    return new TextDecoder(label);
  } catch {
    return undefined;
  }
}

/**
 * What bytes 80 to 9f are in the western code page (Encoding standard, index windows-1252); the others are what
 * Unicode's first 256 are. Node.js 20 decodes these wrongly itself.
 */
const c1 = "€\u0081‚ƒ„…†‡ˆ‰Š‹Œ\u008dŽ\u008f\u0090‘’“”•–—˜™š›œ\u009džŸ";

function westernText(bytes: Uint8Array): string {
  return new TextDecoder("iso-8859-1")
    .decode(bytes)
    .replace(/[\u0080-\u009f]/g, (letter) => c1[letter.charCodeAt(0) - 0x80] as string);
}

/** The bytes of a text in the western code page; undefined where it has letters that it lacks. */
export function westernBytes(text: string): Uint8Array | undefined {
  const bytes = new Uint8Array(text.length);
  for (let i = 0; i < text.length; i++) {
    const code = text.charCodeAt(i);
    const byte = code < 0x80 || (code >= 0xa0 && code <= 0xff) ? code : c1.indexOf(text[i] as string) + 0x80;
    if (byte < 0x80 && code >= 0x80) return undefined;
    bytes[i] = byte;
  }
  return bytes;
}
