import { randomBytes } from "node:crypto";
import type { SecretBox } from "../sources/secret-box.ts";

const purpose = "known browser";

/**
 * What a browser keeps to be known by: a random name, and that it has signed in to an account, signed with this
 * server's key. It opens nothing.
 */
export function browserMark(box: SecretBox, accountId: number): string {
  const id = randomBytes(12).toString("base64url");
  return `${accountId}.${id}.${box.sign(purpose, `${accountId}.${id}`)}`;
}

/**
 * The name of a browser that has signed in to the account before; undefined where the mark is of another account, or
 * none of ours.
 */
export function knownBrowser(box: SecretBox, mark: string | undefined, accountId: number): string | undefined {
  const [account, id, signature] = (mark ?? "").split(".");
  if (account !== String(accountId) || id === undefined || signature === undefined) return undefined;
  return box.isSigned(purpose, `${account}.${id}`, signature) ? id : undefined;
}
