import { Router } from "express";
import * as routes from "../../core/api/people.ts";
import type { Database } from "../db/pool.ts";
import { personOf } from "../http/asker.ts";
import { serve } from "../http/serve.ts";
import { passwordHashOf } from "./account-rows.ts";
import type { Issuer } from "./issuer/issuer.ts";
import { isIssued } from "./issuer/issuer-rows.ts";
import { dropPasswordHash } from "./way-in-rows.ts";
import { passkeysAt } from "./passkeys/passkey-rows.ts";
import { siteOf } from "./site.ts";

/** By what each person signs in. */
export function waysRouter(database: Database, issuer: Issuer): Router {
  const router = Router();

  serve(router, routes.getWaysIn, {}, async ({ request }) => {
    const { id } = personOf(request);
    const settings = await issuer.settings();
    return {
      hasPassword: (await passwordHashOf(database, id)) !== null,
      passkeys: (await passkeysAt(database, id, siteOf(request).host)).length,
      issuer: settings ? { name: settings.name, isLinked: await isIssued(database, id, settings.url) } : null,
    };
  });

  serve(router, routes.dropPassword, {}, async ({ request }) => {
    await dropPasswordHash(database, personOf(request).id);
  });
  return router;
}
