import * as routes from "../../core/api/people.ts";
import { serve } from "../http/serve.ts";
import { personOf } from "../http/asker.ts";
import { randomBytes, timingSafeEqual } from "node:crypto";
import { setTimeout as delay } from "node:timers/promises";
import { serialize } from "cookie";
import { type Request, type Response, Router } from "express";
import Joi from "joi";
import { presentSpan } from "../../core/units/present.ts";
import type { Database } from "../db/pool.ts";
import { createOwner, findAccount, hasOwner, namesInUse } from "./account-rows.ts";
import { hashPassword, isPassword, noAccountHash, passwordProblem } from "./password.ts";
import { closeSession, openSession } from "./session-rows.ts";
import { HashQueue, TooManyHashes } from "./hash-queue.ts";
import { browserMark, knownBrowser } from "./known-browser.ts";
import { SignInLimit, type Trying } from "./sign-in-limit.ts";
import type { LiveHub } from "../live/live-hub.ts";
import type { SecretBox } from "../sources/secret-box.ts";
import { Problem } from "../http/problem.ts";
import {
  browserCookie,
  cookieName,
  cookieOf,
  forgetSession,
  sessionCookie,
  sessionKey,
  sessionToken,
  signedIn,
} from "./signed-in.ts";

/** A code of 50 bits in letters that are not mistaken for one another; it works while there is no owner. */
export function newSetupCode(): string {
  const letters = "abcdefghjkmnpqrstuvwxyz23456789";
  const code = Array.from(randomBytes(10), (byte) => letters[byte % letters.length]).join("");
  return `${code.slice(0, 5)}-${code.slice(5)}`;
}

interface PeopleParts {
  readonly database: Database;
  readonly setupCode: string;
  /** The time by which sessions end (clock/server-clock.ts). */
  readonly acting: () => number;
  readonly box: SecretBox;
  readonly live: LiveHub;
}

const name = Joi.string().trim().min(1).max(64).required();
const password = Joi.string().min(1).max(1000).required();
const setupSchema = Joi.object<{ code: string; name: string; password: string }>({
  code: Joi.string().max(100).required(),
  name,
  password,
});
const sessionSchema = Joi.object<{ name: string; password: string }>({ name, password });

/** Set-up of the owner, signing in and out, who one is. */
// biome-ignore lint/complexity/noExcessiveLinesPerFunction: the routes of one subject
export function peopleRouter({ database, setupCode, acting, box, live }: PeopleParts): Router {
  const router = Router();
  const limit = new SignInLimit();
  const hashes = new HashQueue();
  const signIn = async (request: Request, response: Response, accountId: number) => {
    const before = sessionToken(request);
    const token = await openSession(database, accountId, before, acting());
    if (before !== undefined) end(before);
    const attributes = { httpOnly: true, sameSite: "strict", path: "/", secure: request.secure } as const;
    response.setHeader("Set-Cookie", [
      serialize(cookieName(request, sessionCookie), token, { ...attributes, maxAge: 30 * 86_400 }),
      serialize(cookieName(request, browserCookie), browserMark(box, accountId), {
        ...attributes,
        maxAge: 365 * 86_400,
      }),
    ]);
  };
  /** A session is over: what it had open ends with it. */
  const end = (token: string) => {
    forgetSession(token);
    live.endOf(sessionKey(token));
  };
  /** Counts the try before anything is looked at. */
  const assertMayTry = async (trying: Trying) => {
    const { waitSeconds, pauseMs } = await limit.count(trying);
    if (waitSeconds > 0)
      throw new Problem(
        429,
        "Too many wrong tries",
        `Too many wrong tries from here. The next is let through in ${presentSpan(waitSeconds * 1000)}.`,
        { retryAfterSeconds: waitSeconds },
      );
    if (pauseMs > 0) await delay(pauseMs);
  };
  const hashed = async <T>(work: () => Promise<T>): Promise<T> => {
    try {
      return await hashes.run(work);
    } catch (error) {
      if (error instanceof TooManyHashes)
        throw new Problem(429, "Too many at once", "Too many sign in at the same moment. Try again in a few seconds.", {
          retryAfterSeconds: 5,
        });
      throw error;
    }
  };

  serve(router, routes.getSetup, {}, async () => ({ needed: !(await hasOwner(database)) }));

  serve(router, routes.setUp, { body: setupSchema }, async ({ body, request, response }) => {
    const wish = body;
    const trying = { name: "set-up code", address: request.ip ?? "", browser: undefined };
    if (await hasOwner(database))
      throw new Problem(
        409,
        "There is an owner already",
        "Nubrel has been set up. Sign in with the owner's name and password.",
      );
    await assertMayTry(trying);
    if (!sameText(wish.code.trim().toLowerCase(), setupCode)) {
      throw new Problem(
        403,
        "Another code",
        "This is not the set-up code. It stands in the terminal where Nubrel was started, and changes with each start.",
        { errors: [{ path: "code", message: "This is not the code that the start command printed." }] },
      );
    }
    await limit.noteRight(trying);
    const problem = await passwordProblem(wish.password, [wish.name, ...(await namesInUse(database))]);
    if (problem)
      throw new Problem(422, "Another password", problem, { errors: [{ path: "password", message: problem }] });
    const owner = await createOwner(database, wish.name, await hashed(() => hashPassword(wish.password)));
    if (!owner)
      throw new Problem(
        409,
        "There is an owner already",
        "Somebody else set Nubrel up a moment ago. Sign in with the owner's name and password.",
      );
    await signIn(request, response, owner.id);
    return { name: owner.name, role: owner.role };
  });

  serve(router, routes.signIn, { body: sessionSchema }, async ({ body, request, response }) => {
    const wish = body;
    const account = await findAccount(database, wish.name);
    const trying = {
      name: wish.name,
      address: request.ip ?? "",
      browser: account && knownBrowser(box, cookieOf(request, browserCookie), account.id),
    };
    await assertMayTry(trying);
    const right = await hashed(async () => isPassword(wish.password, account?.passwordHash ?? (await noAccountHash)));
    if (!account || !right) {
      throw new Problem(
        401,
        "Name or password is wrong",
        "No account has this name with this password. Five wrong tries close the door for a quarter of an hour.",
      );
    }
    await limit.noteRight(trying);
    await signIn(request, response, account.id);
    return { name: account.name, role: account.role };
  });

  serve(router, routes.signOut, {}, async ({ request, response }) => {
    const token = sessionToken(request);
    if (token) {
      end(token);
      await closeSession(database, token);
    }
    response.setHeader(
      "Set-Cookie",
      serialize(cookieName(request, sessionCookie), "", {
        httpOnly: true,
        sameSite: "strict",
        path: "/",
        secure: request.secure,
        maxAge: 0,
      }),
    );
  });

  serve(router, routes.getMe, { guard: signedIn(database, acting) }, ({ request }) => {
    const { name, role } = personOf(request);
    return { name, role };
  });
  return router;
}

function sameText(a: string, b: string): boolean {
  const [left, right] = [Buffer.from(a), Buffer.from(b)];
  return left.length === right.length && timingSafeEqual(left, right);
}
