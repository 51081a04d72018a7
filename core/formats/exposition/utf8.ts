/** The Encoding standard's decoder, which every runtime has; core knows no runtime's types. */
declare const TextDecoder: new (label: string, options: { readonly fatal: boolean; readonly ignoreBOM: boolean }) => { decode(bytes: Uint8Array): string };

const strict = new TextDecoder("utf-8", { fatal: true, ignoreBOM: false });

/** The text of `bytes[from..to)`; undefined where it is not UTF-8. */
export function utf8Text(bytes: Uint8Array, from = 0, to = bytes.length): string | undefined {
  if (to - from < 200) {
    let text = "";
    for (let i = from; i < to; i++) {
      const c = bytes[i] as number;
      if (c >= 0x80) return decoded(bytes.subarray(from, to));
      text += String.fromCharCode(c);
    }
    return text;
  }
  return decoded(bytes.subarray(from, to));
}

function decoded(bytes: Uint8Array): string | undefined {
  try {
    return strict.decode(bytes);
  } catch {
    return undefined;
  }
}
