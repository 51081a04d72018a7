import { crc32c } from "@node-rs/crc32";
import { BlockError } from "../../core/chunk/cursor.ts";

/**
 * Set in a block's first byte, its version, where a checksum follows the block: those of earlier versions have none.
 */
const sealed = 0x80;
const checksumBytes = 4;

/**
 * A block as it is stored: its first byte is marked, and its CRC-32C (RFC 3720 §12.1, over the marked block) stands
 * behind it, little-endian. A damaged block is told by
 * that from one of a version that is not known.
 */
export function seal(block: Uint8Array): Buffer {
  const out = Buffer.allocUnsafe(block.length + checksumBytes);
  out.set(block);
  out[0] = (block[0] as number) | sealed;
  out.writeUInt32LE(crc32c(out.subarray(0, block.length)), block.length);
  return out;
}

/**
 * Checks the stored block at `bytes[start..end)`, takes its mark off in place, and gives the end of the block within.
 * Throws BlockError where the checksum is another.
 */
export function unseal(bytes: Buffer, start = 0, end = bytes.length): number {
  if (end <= start || (bytes[start] as number) < sealed) return end;
  const inner = end - checksumBytes;
  if (inner <= start) throw new BlockError("its checksum is cut off", 0);
  const found = crc32c(bytes.subarray(start, inner));
  const told = bytes.readUInt32LE(inner);
  if (found !== told) throw new BlockError(`its checksum is ${hex(found)}, ${hex(told)} was stored: it is damaged`, 0);
  bytes[start] = (bytes[start] as number) & ~sealed;
  return inner;
}

const hex = (n: number): string => n.toString(16).padStart(8, "0");
