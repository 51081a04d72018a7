import { chownSync, closeSync, existsSync, fsyncSync, openSync, renameSync, rmSync, statSync } from "node:fs";
import { dirname } from "node:path";
import { type Database, inTransaction } from "../db/pool.ts";
import { SealedError, SecretBox } from "../sources/secret-box.ts";
import { everySealed } from "./sealed-rows.ts";

/** The key that is to be next stands beside the one that holds, until everything is sealed with it. */
export const nextOf = (keyFile: string): string => `${keyFile}.next`;

/**
 * Seals every secret with a new key, in one transaction, and puts that key into the file; killed in between, the next
 * start goes on with the key that the secrets are sealed with. No server may run. Answers how many were sealed anew, and
 * whose could not be opened: these stay as they are.
 */
export async function changeKey(
  database: Database,
  keyFile: string,
): Promise<{ readonly changed: number; readonly lost: readonly string[] }> {
  await settleKey(database, keyFile);
  const before = SecretBox.open(keyFile);
  const next = SecretBox.open(nextOf(keyFile));
  // Whoever may read the one may read the other: root changes the key of the account that the server runs as.
  const { uid, gid } = statSync(keyFile);
  chownSync(nextOf(keyFile), uid, gid);
  synced(nextOf(keyFile));
  const lost: string[] = [];
  const changed = await inTransaction(database, async (connection) => {
    let count = 0;
    for (const { of, sealed, keep } of await everySealed(connection)) {
      const text = opened(before, sealed);
      if (text === undefined) lost.push(of);
      else {
        await keep(next.seal(text));
        count += 1;
      }
    }
    return count;
  });
  renameSync(nextOf(keyFile), keyFile);
  synced(dirname(keyFile));
  return { changed, lost };
}

/** Ends a change of the key that was cut short: the key stays with which the secrets are sealed. */
export async function settleKey(database: Database, keyFile: string): Promise<void> {
  const file = nextOf(keyFile);
  if (!existsSync(file)) return;
  const next = keyOf(file);
  const isDone =
    next !== undefined && (await everySealed(database)).some(({ sealed }) => opened(next, sealed) !== undefined);
  if (isDone) renameSync(file, keyFile);
  else rmSync(file);
  synced(dirname(keyFile));
}

/** Whether what is sealed in a database, if anything, was sealed with this key. */
export async function isKeyOf(database: Database, keyFile: string): Promise<boolean> {
  const all = await everySealed(database);
  if (all.length === 0) return true;
  const box = SecretBox.open(keyFile);
  return all.some(({ sealed }) => opened(box, sealed) !== undefined);
}

/** Undefined where the file was written in part. */
function keyOf(file: string): SecretBox | undefined {
  try {
    return SecretBox.open(file);
  } catch {
    return undefined;
  }
}

/** Undefined for what was sealed with another key. */
function opened(box: SecretBox, sealed: Buffer): string | undefined {
  try {
    return box.unseal(sealed);
  } catch (error) {
    if (error instanceof SealedError) return undefined;
    throw error;
  }
}

/** Has a file or folder reach the disk. */
function synced(path: string): void {
  const handle = openSync(path, "r");
  try {
    fsyncSync(handle);
  } finally {
    closeSync(handle);
  }
}
