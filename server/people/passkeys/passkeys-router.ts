import { Router } from "express";
import Joi from "joi";
import * as routes from "../../../core/api/passkeys.ts";
import type { CeremonyOptions, CeremonyResponse } from "../../../core/api/passkeys.ts";
import type { Database } from "../../db/pool.ts";
import { personOf } from "../../http/asker.ts";
import { Problem } from "../../http/problem.ts";
import { serve } from "../../http/serve.ts";
import { accountOf, handleOf } from "../account-rows.ts";
import type { Entrance } from "../entrance.ts";
import { meOf } from "../me-of.ts";
import { siteOf } from "../site.ts";
import { noteProof } from "../session-rows.ts";
import { listPasskeyRows, removePasskeyRow } from "./passkey-rows.ts";
import { PasskeyError, type Passkeys } from "./passkeys.ts";

interface PasskeysParts {
  readonly database: Database;
  readonly entrance: Entrance;
  readonly passkeys: Passkeys;
  /** The time by which sessions end (clock/server-clock.ts). */
  readonly acting: () => number;
}

const response = Joi.object<CeremonyResponse>({
  id: Joi.string().max(2000).required(),
  rawId: Joi.string().max(2000).required(),
  type: Joi.string().max(50).required(),
  response: Joi.object({ clientDataJSON: Joi.string().max(4000).required() })
    .unknown()
    .required(),
})
  .unknown()
  .required();
const shownSchema = Joi.object<{ response: CeremonyResponse }>({ response });
const addedSchema = Joi.object<{ name: string; response: CeremonyResponse }>({
  name: Joi.string().trim().min(1).max(64).required(),
  response,
});

/** The way in by a passkey, for anybody. */
export function passkeyEntranceRouter({ database, entrance, passkeys }: Omit<PasskeysParts, "acting">): Router {
  const router = Router();

  serve(router, routes.beginPasskeySignIn, {}, async ({ request }) =>
    optionsOf(await told(() => passkeys.beginShowing(siteOf(request)))),
  );

  serve(router, routes.signInByPasskey, { body: shownSchema }, async ({ request, response: answer, body }) => {
    const site = siteOf(request);
    const passkey = await passkeys.find(site, body.response);
    const account = passkey && (await accountOf(database, passkey.accountId));
    const trying = entrance.trying(request, `passkey of ${account?.name ?? "nobody"}`, account?.id);
    await entrance.assertMayTry(trying);
    if (!passkey || !account)
      throw new Problem(
        401,
        "unknown-passkey",
        "Nobody here has this passkey; it may have been removed. Sign in otherwise and add it again.",
      );
    await told(() => passkeys.show(site, passkey, body.response), 401);
    await entrance.noteRight(trying);
    await entrance.enter(request, answer, account);
    return meOf(account);
  });
  return router;
}

/** Passkeys of each person for themselves. */
export function passkeysRouter({ database, entrance, passkeys, acting }: PasskeysParts): Router {
  const router = Router();

  serve(router, routes.listPasskeys, {}, ({ request }) => listPasskeyRows(database, personOf(request).id));

  serve(router, routes.beginPasskey, {}, async ({ request }) => {
    const { id, name } = personOf(request);
    const person = { id, name, handle: await handleOf(database, id) };
    return optionsOf(await told(() => passkeys.beginAdding(siteOf(request), person)));
  });

  serve(router, routes.addPasskey, { body: addedSchema }, ({ request, body }) =>
    told(() => passkeys.add(siteOf(request), personOf(request).id, body.name, body.response)),
  );

  serve(router, routes.removePasskey, {}, async ({ request, params: { id } }) => {
    const removed = await removePasskeyRow(database, personOf(request).id, id);
    if (!removed) throw new Problem(404, "no-such-passkey", "It is not yours, or was removed already.");
  });

  serve(router, routes.beginPasskeyProof, {}, async ({ request }) =>
    optionsOf(await told(() => passkeys.beginShowing(siteOf(request), personOf(request).id))),
  );

  serve(router, routes.proveByPasskey, { body: shownSchema }, async ({ request, body }) => {
    const { id, name, sessionId } = personOf(request);
    const site = siteOf(request);
    const trying = entrance.trying(request, `passkey of ${name}`, id);
    await entrance.assertMayTry(trying);
    const passkey = await passkeys.find(site, body.response);
    if (!passkey) throw new Problem(403, "unknown-passkey", "This passkey is not kept here.");
    await told(() => passkeys.show(site, passkey, body.response, id), 403);
    await entrance.noteRight(trying);
    await noteProof(database, sessionId, acting());
  });
  return router;
}

const optionsOf = (options: object) => ({ options: options as CeremonyOptions });

/** Has a person be told why a passkey is not taken. */
async function told<T>(ceremony: () => Promise<T>, status = 422): Promise<T> {
  try {
    return await ceremony();
  } catch (error) {
    if (error instanceof PasskeyError) throw new Problem(status, "not-this-passkey", error.message);
    throw error;
  }
}
