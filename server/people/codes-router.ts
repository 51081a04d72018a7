import { Router } from "express";
import Joi from "joi";
import * as routes from "../../core/api/people.ts";
import { personOf } from "../http/asker.ts";
import { Problem } from "../http/problem.ts";
import { serve } from "../http/serve.ts";
import type { Entrance } from "./entrance.ts";
import type { TimeCodes } from "./time-codes.ts";

const codeSchema = Joi.object<{ code: string }>({ code: Joi.string().max(100).required() });

/** Time codes as a second factor, each person for themselves. */
export function codesRouter(codes: TimeCodes, entrance: Entrance): Router {
  const router = Router();

  serve(router, routes.getCodes, {}, async ({ request }) => {
    const { id } = personOf(request);
    return { isOn: await codes.isOn(id), recoveryLeft: await codes.recoveryLeft(id) };
  });

  serve(router, routes.beginCodes, {}, async ({ request }) => {
    const { id, name } = personOf(request);
    return await codes.begin(id, name);
  });

  serve(router, routes.confirmCodes, { body: codeSchema }, async ({ request, body: { code } }) => {
    const { id, name } = personOf(request);
    const trying = entrance.trying(request, `code of ${name}`, id);
    await entrance.assertMayTry(trying);
    const recovery = await codes.confirm(id, code);
    if (!recovery) {
      const message = "This code is not of the new secret, or its half minute is over. Is the device's clock right?";
      throw new Problem(422, "another-code", message, { errors: [{ path: "code", message }] });
    }
    await entrance.noteRight(trying);
    return { recovery };
  });

  serve(router, routes.dropCodes, {}, async ({ request }) => await codes.drop(personOf(request).id));
  return router;
}
