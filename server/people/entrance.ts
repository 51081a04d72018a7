import { notePlace } from "./places/place-rows.ts";
import { newPlace } from "../../core/audit/deed-words.ts";
import type { Tokens } from "./tokens.ts";
import { noteEntered, witnessOf } from "../http/witness.ts";
import { setTimeout as delay } from "node:timers/promises";
import { serialize } from "cookie";
import type { Request, Response } from "express";
import { presentSpan } from "../../core/units/present.ts";
import type { Database } from "../db/pool.ts";
import { Problem } from "../http/problem.ts";
import type { LiveHub } from "../live/live-hub.ts";
import type { SecretBox } from "../sources/secret-box.ts";
import { deviceWords } from "./device-words.ts";
import { HashQueue, TooManyHashes } from "./hash-queue.ts";
import { browserMark, knownBrowser } from "./known-browser.ts";
import { passwordProblem } from "./password.ts";
import { type Account, namesInUse } from "./account-rows.ts";
import { closeSession, openSession, sessionHashes } from "./session-rows.ts";
import { networkOf, SignInLimit, type Trying } from "./sign-in-limit.ts";
import {
  browserCookie,
  cookieName,
  cookieOf,
  forgetSession,
  keyOfHash,
  sessionCookie,
  sessionKey,
  sessionToken,
  tokenKey,
} from "./signed-in.ts";

interface EntranceParts {
  readonly database: Database;
  /** The time by which sessions end (clock/server-clock.ts). */
  readonly acting: () => number;
  readonly box: SecretBox;
  readonly live: LiveHub;
  readonly tokens: Tokens;
}

const daySeconds = 86_400;

/** The door that people go in and out by: counts tries, hashes a few at a time, opens and ends sessions. */
export class Entrance {
  readonly #parts: EntranceParts;
  readonly #limit = new SignInLimit();
  readonly #hashes = new HashQueue();

  constructor(parts: EntranceParts) {
    this.#parts = parts;
  }

  /** What is tried, by whose account where one has that name. */
  trying(request: Request, name: string, accountId: number | undefined): Trying {
    const mark = cookieOf(request, browserCookie);
    const browser = accountId === undefined ? undefined : knownBrowser(this.#parts.box, mark, accountId);
    return { name, address: request.ip ?? "", browser };
  }

  /** Counts the try before anything is looked at. Throws a Problem where there were too many. */
  async assertMayTry(trying: Trying): Promise<void> {
    const { waitSeconds, pauseMs } = await this.#limit.count(trying);
    if (waitSeconds > 0)
      throw new Problem(
        429,
        "too-many-wrong-tries",
        `Too many wrong tries from here. The next is let through in ${presentSpan(waitSeconds * 1000)}.`,
        { retryAfterSeconds: waitSeconds },
      );
    if (pauseMs > 0) await delay(pauseMs);
  }

  noteRight(trying: Trying): Promise<void> {
    return this.#limit.noteRight(trying);
  }

  /** Works out a hash, or holds a password against one. Throws a Problem where too many wait. */
  async hashed<T>(work: () => Promise<T>): Promise<T> {
    try {
      return await this.#hashes.run(work);
    } catch (error) {
      if (error instanceof TooManyHashes)
        throw new Problem(429, "too-many-at-once", "Too many sign in at the same moment. Try again in a few seconds.", {
          retryAfterSeconds: 5,
        });
      throw error;
    }
  }

  /** Throws a Problem that names the field where a new password will not do. */
  async assertGoodPassword(password: string, names: readonly string[], path = "password"): Promise<void> {
    const problem = await passwordProblem(password, [...names, ...(await namesInUse(this.#parts.database))]);
    if (problem) throw new Problem(422, "another-password", problem, { errors: [{ path, message: problem }] });
  }

  /** Opens a session for a person and has their browser keep it. */
  async enter(
    request: Request,
    response: Response,
    { id: accountId, name }: Pick<Account, "id" | "name">,
  ): Promise<void> {
    const { database, acting, box } = this.#parts;
    const before = sessionToken(request);
    const device = deviceWords(request.headers["user-agent"] ?? "");
    const whereabouts = { device, place: request.ip ?? "" };
    const token = await openSession(database, accountId, before, acting(), whereabouts);
    if (before !== undefined) this.#end(sessionKey(before));
    noteEntered(request, name);
    if (await notePlace(database, accountId, { device, network: networkOf(whereabouts.place) }))
      await witnessOf(request)?.note(request, { did: newPlace, subject: device, named: name, outcome: "done" });
    const attributes = { httpOnly: true, sameSite: "strict", path: "/", secure: request.secure } as const;
    response.append("Set-Cookie", [
      serialize(cookieName(request, sessionCookie), token, { ...attributes, maxAge: 30 * daySeconds }),
      serialize(cookieName(request, browserCookie), browserMark(box, accountId), {
        ...attributes,
        maxAge: 365 * daySeconds,
      }),
    ]);
  }

  /** Ends the session that a request comes with. */
  async leave(request: Request, response: Response): Promise<void> {
    const token = sessionToken(request);
    if (token) {
      this.#end(sessionKey(token));
      await closeSession(this.#parts.database, token);
    }
    response.append(
      "Set-Cookie",
      serialize(cookieName(request, sessionCookie), "", {
        httpOnly: true,
        sameSite: "strict",
        path: "/",
        secure: request.secure,
        maxAge: 0,
      }),
    );
  }

  /** Sessions are over, by the hashes of their tokens: what they had open ends with them, in every tab. */
  ended(hashes: readonly Buffer[]): void {
    for (const hash of hashes) this.#end(keyOfHash(hash));
  }

  /** Somebody's role or limits are others now: what they have open, by tokens too, connects again as whom they are. */
  async changed(accountId: number): Promise<void> {
    const { database, live, tokens } = this.#parts;
    tokens.forget();
    for (const hash of await sessionHashes(database, accountId)) this.#end(keyOfHash(hash));
    for (const { id } of await tokens.ofPerson(accountId)) live.endOf(tokenKey(id));
  }

  #end(key: string): void {
    forgetSession(key);
    this.#parts.live.endOf(key);
  }
}
