import { noteFactorChange } from "../people/places/change-rows.ts";
import { changesFactors } from "../../core/api/who-may.ts";
import type { Request } from "express";
import { LRUCache } from "lru-cache";
import type { Logger } from "pino";
import type { Deed } from "../../core/api/audit.ts";
import { changedParts } from "../../core/audit/changed-parts.ts";
import { withoutSecrets } from "../../core/audit/without-secrets.ts";
import type { Database } from "../db/pool.ts";
import { callerOf, linkAskerOf, nameOf, sessionOf, tokenIdOf } from "../http/asker.ts";
import type { Witness, Witnessed } from "../http/witness.ts";
import { insertDeed } from "./audit-rows.ts";

/** A document that is larger is told by its size: its versions are kept with it. */
const mostCharacters = 20_000;
const mostOfName = 200;
/** The same refusal is written down once in so long. */
const refusedOnceMs = 60_000;

/** Writes down who did what, or was refused what, in the database. */
export class Audit implements Witness {
  readonly #database: Database;
  readonly #log: Logger;
  readonly #refused = new LRUCache<string, true>({ max: 10_000, ttl: refusedOnceMs });

  constructor(database: Database, log: Logger) {
    this.#database = database;
    this.#log = log;
  }

  async note(request: Request, { did, subject, named, before, after, outcome }: Witnessed): Promise<void> {
    const { who, knownBy } = whoIs(request, named, outcome);
    const place = request.ip ?? "";
    if (outcome !== "done") {
      const key = [who, place, did, outcome].join("\n");
      if (this.#refused.has(key)) return;
      this.#refused.set(key, true);
    }
    const parts = changedParts(withoutSecrets(before), withoutSecrets(after));
    try {
      await insertDeed(this.#database, {
        ...{ who, knownBy, place, did, outcome },
        subject: subject.slice(0, mostOfName),
        before: within(parts.before),
        after: within(parts.after),
      });
      const session = outcome === "done" && changesFactors.has(did) ? sessionOf(request) : undefined;
      if (session) await noteFactorChange(this.#database, { ...session, did });
    } catch (error) {
      this.#log.error({ err: error, who, did }, "who did what could not be written down");
    }
  }
}

function whoIs(request: Request, named: string | undefined, outcome: string): Pick<Deed, "who" | "knownBy"> {
  const tokenId = tokenIdOf(request);
  if (tokenId !== undefined) return { who: nameOf(request) || `token ${tokenId}`, knownBy: "token" };
  const link = linkAskerOf(request);
  if (link) return { who: `link ${link.id} ${link.name}`.slice(0, mostOfName), knownBy: "link" };
  if (callerOf(request) !== "nobody") return { who: nameOf(request), knownBy: "person" };
  // Whoever came in by this very request has shown who they are.
  const knownBy = named !== undefined && outcome === "done" ? "person" : "nothing";
  return { who: (named ?? "nobody").slice(0, mostOfName), knownBy };
}

function within(value: unknown): unknown {
  const length = JSON.stringify(value ?? null).length;
  return length <= mostCharacters ? value : `${length} characters: too many to be kept here`;
}
