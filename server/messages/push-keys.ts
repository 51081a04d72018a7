import webPush from "web-push";
import type { Database } from "../db/pool.ts";
import type { SecretBox } from "../sources/secret-box.ts";
import { readPushKeys, writePushKeys } from "./push-key-rows.ts";

/** A key pair of P-256 in base64url, by which a server shows push services that it is the same as before (RFC 8292). */
export interface PushKeyPair {
  readonly publicKey: string;
  readonly privateKey: string;
}

/** This server's key pair, made when it is first wanted. Subscriptions hold to it: it stays as long as the database. */
export class PushKeys {
  readonly #database: Database;
  readonly #box: SecretBox;
  #pair: Promise<PushKeyPair> | undefined;

  constructor(database: Database, box: SecretBox) {
    this.#database = database;
    this.#box = box;
  }

  /** Throws SealedError where it was sealed with another key. */
  pair(): Promise<PushKeyPair> {
    this.#pair ??= this.#find().catch((error) => {
      this.#pair = undefined;
      throw error;
    });
    return this.#pair;
  }

  async #find(): Promise<PushKeyPair> {
    const made = webPush.generateVAPIDKeys();
    // Whoever comes first makes it; what another has made meanwhile holds.
    await writePushKeys(this.#database, this.#box.seal(JSON.stringify(made)));
    const sealed = await readPushKeys(this.#database);
    return JSON.parse(this.#box.unseal(sealed)) as PushKeyPair;
  }
}
