import { setImmediate as turn } from "node:timers/promises";
import type { PageReader } from "../../core/formats/exposition/page-reader.ts";
import type { Page } from "../../core/pages/page.ts";

/** Bytes of a page that are read before others get their turn. */
const pieceBytes = 262_144;

/** Reads a page. Others are answered between its pieces. Throws TextError. */
export async function readInPieces(reader: PageReader, bytes: Uint8Array): Promise<Page> {
  reader.begin();
  for (let at = 0; at < bytes.length; at += pieceBytes) {
    if (at > 0) await turn();
    reader.feed(bytes.subarray(at, at + pieceBytes));
  }
  return reader.end();
}
