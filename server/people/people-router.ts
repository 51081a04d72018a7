import { nameByProxy } from "./by-proxy.ts";
import { meOf } from "./me-of.ts";
import { Router } from "express";
import Joi from "joi";
import * as routes from "../../core/api/people.ts";
import type { Database } from "../db/pool.ts";
import { personOf } from "../http/asker.ts";
import { Problem } from "../http/problem.ts";
import { serve } from "../http/serve.ts";
import { changePasswordHash, findAccount } from "./account-rows.ts";
import type { Entrance } from "./entrance.ts";
import { hashPassword, isPassword, noAccountHash } from "./password.ts";
import { nameSchema, passwordSchema } from "./people-schema.ts";
import type { TimeCodes } from "./time-codes.ts";
import { signedIn } from "./signed-in.ts";

interface DoorParts {
  readonly database: Database;
  readonly entrance: Entrance;
  readonly codes: TimeCodes;
  /** By which a named proxy says who comes; undefined where none does. */
  readonly signInHeader: string | undefined;
  /** The time by which sessions end (clock/server-clock.ts). */
  readonly acting: () => number;
}

const sessionSchema = Joi.object<{ name: string; password: string; code: string; next: string }>({
  name: nameSchema,
  password: passwordSchema,
  code: Joi.string().max(100).allow("").default(""),
  next: Joi.string().max(1000).allow("").default(""),
});

/** Signing in and out, who one is. */
export function peopleRouter({ database, entrance, codes, signInHeader, acting }: DoorParts): Router {
  const router = Router();

  serve(router, routes.signInByProxy, {}, async ({ request, response }) => {
    const name = nameByProxy(request, signInHeader);
    if (name === undefined)
      throw new Problem(401, "nobody-is-named", "No proxy before this server says who comes. Sign in otherwise.");
    const account = await findAccount(database, name);
    if (!account)
      throw new Problem(401, "nobody-of-that-name", `The proxy says ${name}; nobody here is called so. Ask an owner.`);
    await entrance.enter(request, response, account);
    return meOf(account);
  });

  serve(router, routes.signIn, { body: sessionSchema }, async ({ body: wish, request, response }) => {
    const account = await findAccount(database, wish.name);
    const trying = entrance.trying(request, wish.name, account?.id);
    await entrance.assertMayTry(trying);
    const right = await entrance.hashed(async () =>
      isPassword(wish.password, account?.passwordHash ?? (await noAccountHash)),
    );
    if (!account || !right) {
      throw new Problem(
        401,
        "name-or-password-is-wrong",
        "No account has this name with this password. Five wrong tries close the door for a quarter of an hour.",
      );
    }
    if ((await codes.isOn(account.id)) && wish.code === "") {
      await entrance.noteRight(trying); // nothing was guessed wrong; a code that is counts as a try
      throw new Problem(401, "a-code-is-wanted", "Give the code that your device shows now, or one for recovery.", {
        asks: "code",
      });
    }
    // The password was right: choosing one is no try, where no code could be guessed besides.
    if (account.passwordIsHanded && !(await codes.isOn(account.id))) await entrance.noteRight(trying);
    if (account.passwordIsHanded && wish.next === "")
      throw new Problem(401, "a-password-of-yours-is-wanted", "This one was handed to you, and is for one sign-in.", {
        asks: "next",
      });
    if (account.passwordIsHanded) await assertAnother(entrance, wish);
    await assertCode(codes, account.id, wish.code);
    if (account.passwordIsHanded)
      await changePasswordHash(database, account.id, await entrance.hashed(() => hashPassword(wish.next)));
    await entrance.noteRight(trying);
    await entrance.enter(request, response, account);
    return meOf(account);
  });

  serve(router, routes.signOut, {}, async ({ request, response }) => await entrance.leave(request, response));

  serve(router, routes.getMe, { known: signedIn(database, acting, signInHeader) }, ({ request }) =>
    meOf(personOf(request)),
  );
  return router;
}

/** Takes a person's code, where they have a second factor. Throws a Problem for one that is not right now. */
async function assertCode(codes: TimeCodes, accountId: number, code: string): Promise<void> {
  if (await codes.take(accountId, code)) return;
  const message = "This code is not right now, or was used before. Wait for the next one.";
  throw new Problem(401, "another-code", message, { errors: [{ path: "code", message }], asks: "code" });
}

/** Throws a Problem where a password that somebody is to choose is poor, or the one that was handed to them. */
async function assertAnother(
  entrance: Entrance,
  { name, password, next }: { readonly name: string; readonly password: string; readonly next: string },
): Promise<void> {
  const message = "This is the one that was handed to you. Take another.";
  if (next === password)
    throw new Problem(422, "another-password", message, { errors: [{ path: "next", message }], asks: "next" });
  await entrance.assertGoodPassword(next, [name], "next");
}
