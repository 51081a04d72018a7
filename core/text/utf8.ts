/** The Encoding standard's decoder, which every runtime has; core knows no runtime's types. */
declare const TextDecoder: new (
  label: string,
  options: { readonly fatal: boolean; readonly ignoreBOM: boolean },
) => { decode(bytes: Uint8Array): string };

/** Short texts without letters beyond ASCII are made without the decoder: it takes a microsecond to call. */
const mostAtOnce = 400;
const strict = new TextDecoder("utf-8", { fatal: true, ignoreBOM: false });

/** The text of `bytes[from..to)`; undefined where it is not UTF-8. */
export function utf8Text(bytes: Uint8Array, from = 0, to = bytes.length): string | undefined {
  const part = bytes.subarray(from, to);
  if (part.length > mostAtOnce) return decoded(part);
  for (let i = 0; i < part.length; i++) if (part[i] >= 0x80) return decoded(part);
  // one flat text; put together by letters it would take several times the memory
  return String.fromCharCode.apply(null, part as unknown as number[]);
}

function decoded(bytes: Uint8Array): string | undefined {
  try {
    return strict.decode(bytes);
  } catch {
    return undefined;
  }
}
