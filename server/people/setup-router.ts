import { timingSafeEqual } from "node:crypto";
import { Router } from "express";
import Joi from "joi";
import * as routes from "../../core/api/people.ts";
import type { Database } from "../db/pool.ts";
import { Problem } from "../http/problem.ts";
import { serve } from "../http/serve.ts";
import { createOwner, hasOwner } from "./account-rows.ts";
import { nameByProxy } from "./by-proxy.ts";
import type { Entrance } from "./entrance.ts";
import type { Issuer } from "./issuer/issuer.ts";
import { meOf } from "./me-of.ts";
import { newCode } from "./new-password.ts";
import { hashPassword } from "./password.ts";
import { nameSchema, passwordSchema } from "./people-schema.ts";

/** A code of 49 bits in letters that are not mistaken for one another; it works while there is no owner. */
export const newSetupCode = (): string => newCode(2);

interface SetupParts {
  readonly database: Database;
  readonly entrance: Entrance;
  readonly issuer: Issuer;
  readonly setupCode: string;
  /** By which a named proxy says who comes; undefined where none does. */
  readonly signInHeader: string | undefined;
}

const setupSchema = Joi.object<{ code: string; name: string; password: string }>({
  code: Joi.string().max(100).required(),
  name: nameSchema,
  password: passwordSchema,
});
/** What is known at the door, and set-up of the owner. */
export function setupRouter({ database, entrance, issuer, setupCode, signInHeader }: SetupParts): Router {
  const router = Router();

  serve(router, routes.getSetup, {}, async ({ request }) => ({
    needed: !(await hasOwner(database)),
    issuer: (await issuer.settings())?.name ?? null,
    byProxy: nameByProxy(request, signInHeader) !== undefined,
  }));

  serve(router, routes.setUp, { body: setupSchema }, async ({ body: wish, request, response }) => {
    const trying = { name: "set-up code", address: request.ip ?? "", browser: undefined };
    if (await hasOwner(database))
      throw new Problem(
        409,
        "there-is-an-owner-already",
        "Nubrel has been set up. Sign in with the owner's name and password.",
      );
    await entrance.assertMayTry(trying);
    if (!sameText(wish.code.trim().toLowerCase(), setupCode)) {
      throw new Problem(
        403,
        "another-code",
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
        "there-is-an-owner-already",
        "Somebody else set Nubrel up a moment ago. Sign in with the owner's name and password.",
      );
    await entrance.enter(request, response, owner);
    return meOf(owner);
  });

  return router;
}

function sameText(a: string, b: string): boolean {
  const [left, right] = [Buffer.from(a), Buffer.from(b)];
  return left.length === right.length && timingSafeEqual(left, right);
}
