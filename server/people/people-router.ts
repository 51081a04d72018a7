import { meOf } from "./me-of.ts";
import { timingSafeEqual } from "node:crypto";
import { Router } from "express";
import Joi from "joi";
import * as routes from "../../core/api/people.ts";
import type { Database } from "../db/pool.ts";
import { personOf } from "../http/asker.ts";
import { Problem } from "../http/problem.ts";
import { serve } from "../http/serve.ts";
import { createOwner, findAccount, hasOwner } from "./account-rows.ts";
import type { Entrance } from "./entrance.ts";
import { hashPassword, isPassword, noAccountHash } from "./password.ts";
import { newCode } from "./new-password.ts";
import { nameSchema, passwordSchema } from "./people-schema.ts";
import type { TimeCodes } from "./time-codes.ts";
import { signedIn } from "./signed-in.ts";

/** A code of 49 bits in letters that are not mistaken for one another; it works while there is no owner. */
export const newSetupCode = (): string => newCode(2);

interface DoorParts {
  readonly database: Database;
  readonly entrance: Entrance;
  readonly codes: TimeCodes;
  readonly setupCode: string;
  /** The time by which sessions end (clock/server-clock.ts). */
  readonly acting: () => number;
}

const setupSchema = Joi.object<{ code: string; name: string; password: string }>({
  code: Joi.string().max(100).required(),
  name: nameSchema,
  password: passwordSchema,
});
const sessionSchema = Joi.object<{ name: string; password: string; code: string }>({
  name: nameSchema,
  password: passwordSchema,
  code: Joi.string().max(100).allow("").default(""),
});

/** Set-up of the owner, signing in and out, who one is. */
export function peopleRouter({ database, entrance, codes, setupCode, acting }: DoorParts): Router {
  const router = Router();

  serve(router, routes.getSetup, {}, async () => ({ needed: !(await hasOwner(database)) }));

  serve(router, routes.setUp, { body: setupSchema }, async ({ body: wish, request, response }) => {
    const trying = { name: "set-up code", address: request.ip ?? "", browser: undefined };
    if (await hasOwner(database))
      throw new Problem(
        409,
        "There is an owner already",
        "Nubrel has been set up. Sign in with the owner's name and password.",
      );
    await entrance.assertMayTry(trying);
    if (!sameText(wish.code.trim().toLowerCase(), setupCode)) {
      throw new Problem(
        403,
        "Another code",
        "This is not the set-up code. It stands in the terminal where Nubrel was started, and changes with each start.",
        { errors: [{ path: "code", message: "This is not the code that the start command printed." }] },
      );
    }
    await entrance.noteRight(trying);
    await entrance.assertGoodPassword(wish.password, [wish.name]);
    const owner = await createOwner(database, wish.name, await entrance.hashed(() => hashPassword(wish.password)));
    if (!owner)
      throw new Problem(
        409,
        "There is an owner already",
        "Somebody else set Nubrel up a moment ago. Sign in with the owner's name and password.",
      );
    await entrance.enter(request, response, owner);
    return meOf(owner);
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
        "Name or password is wrong",
        "No account has this name with this password. Five wrong tries close the door for a quarter of an hour.",
      );
    }
    if ((await codes.isOn(account.id)) && wish.code === "") {
      await entrance.noteRight(trying); // nothing was guessed wrong; a code that is counts as a try
      throw new Problem(401, "A code is wanted", "Give the code that your device shows now, or one for recovery.", {
        asks: "code",
      });
    }
    await assertCode(codes, account.id, wish.code);
    await entrance.noteRight(trying);
    await entrance.enter(request, response, account);
    return meOf(account);
  });

  serve(router, routes.signOut, {}, async ({ request, response }) => await entrance.leave(request, response));

  serve(router, routes.getMe, { known: signedIn(database, acting) }, ({ request }) => meOf(personOf(request)));
  return router;
}

/** Takes a person's code, where they have a second factor. Throws a Problem for one that is not right now. */
async function assertCode(codes: TimeCodes, accountId: number, code: string): Promise<void> {
  if (await codes.take(accountId, code)) return;
  const message = "This code is not right now, or was used before. Wait for the next one.";
  throw new Problem(401, "Another code", message, { errors: [{ path: "code", message }], asks: "code" });
}

function sameText(a: string, b: string): boolean {
  const [left, right] = [Buffer.from(a), Buffer.from(b)];
  return left.length === right.length && timingSafeEqual(left, right);
}
