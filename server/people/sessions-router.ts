import { assertProven } from "../http/assert-may.ts";
import { Router } from "express";
import Joi from "joi";
import * as routes from "../../core/api/people.ts";
import type { Database } from "../db/pool.ts";
import { personOf } from "../http/asker.ts";
import { Problem } from "../http/problem.ts";
import { serve } from "../http/serve.ts";
import { changePasswordHash, passwordHashOf } from "./account-rows.ts";
import type { Entrance } from "./entrance.ts";
import { hashPassword, isPassword, noAccountHash } from "./password.ts";
import { passwordSchema } from "./people-schema.ts";
import { closeSessions, listSessions, noteProof } from "./session-rows.ts";

interface SessionsParts {
  readonly database: Database;
  readonly entrance: Entrance;
  readonly acting: () => number;
}

const butSchema = Joi.object<{ but?: "this" }>({ but: Joi.valid("this") });
const proofSchema = Joi.object<{ password: string }>({ password: passwordSchema });
const changeSchema = Joi.object<{ now: string; next: string }>({
  now: passwordSchema.optional().allow("").default(""),
  next: passwordSchema,
});

/** What each person has open, and their password. */
export function sessionsRouter({ database, entrance, acting }: SessionsParts): Router {
  const router = Router();
  /** Throws a Problem where this is not the password of the one who asks; tries are counted as at the door. */
  const assertIsTheirs = async (request: Parameters<typeof personOf>[0], password: string, path: string) => {
    const { id, name } = personOf(request);
    const trying = entrance.trying(request, name, id);
    await entrance.assertMayTry(trying);
    const hash = (await passwordHashOf(database, id)) ?? (await noAccountHash);
    if (!(await entrance.hashed(() => isPassword(password, hash)))) {
      const message = "This is not your password.";
      throw new Problem(403, "another-password", message, { errors: [{ path, message }] });
    }
    await entrance.noteRight(trying);
  };

  serve(router, routes.listSessions, {}, async ({ request }) => {
    const { id, sessionId } = personOf(request);
    const open = await listSessions(database, id, acting());
    return open.map((one) => ({ ...one, isThis: one.id === sessionId }));
  });

  serve(router, routes.endSessions, { query: butSchema }, async ({ request, query: { but } }) => {
    const { id, sessionId } = personOf(request);
    entrance.ended(await closeSessions(database, id, but ? { but: sessionId } : {}));
  });

  serve(router, routes.endSession, {}, async ({ request, params: { id: only } }) => {
    const ended = await closeSessions(database, personOf(request).id, { only });
    if (ended.length === 0) throw new Problem(404, "no-such-session", "It is not yours, or has ended already.");
    entrance.ended(ended);
  });

  serve(router, routes.changePassword, { body: changeSchema }, async ({ request, body: { now, next } }) => {
    const { id, name, sessionId } = personOf(request);
    // Who has none yet has shown who they are by a passkey.
    if ((await passwordHashOf(database, id)) === null) assertProven(request);
    else await assertIsTheirs(request, now, "now");
    await entrance.assertGoodPassword(next, [name], "next");
    await changePasswordHash(database, id, await entrance.hashed(() => hashPassword(next)));
    await noteProof(database, sessionId, acting());
    entrance.ended(await closeSessions(database, id, { but: sessionId }));
  });

  serve(router, routes.proveMe, { body: proofSchema }, async ({ request, body: { password } }) => {
    await assertIsTheirs(request, password, "password");
    await noteProof(database, personOf(request).sessionId, acting());
  });
  return router;
}
