import type { IntakeLimits } from "../../core/sources/intake-limits.ts";
import type { RequestHandler } from "express";
import Joi from "joi";
import { type SampleFormat, sampleFormats } from "../../core/formats/samples/sample-format.ts";
import { TextError } from "../../core/pages/text-error.ts";
import type { Store } from "../store/store.ts";
import { ImportError, importSamples } from "./import-samples.ts";
import { checked } from "../http/checked.ts";
import { Problem } from "../http/problem.ts";
import { assertCommand } from "../people/by-command.ts";

const importSchema = Joi.object<{ format: SampleFormat }>({
  format: Joi.valid(...sampleFormats).default("openmetrics"),
});

/**
 * Takes samples that the command line sends, as they come. It is let in by the token that the start command gave to
 * both. `done` is told of what was taken.
 */
export function importHandler(
  store: Store,
  limits: () => IntakeLimits,
  token: string | undefined,
  done: () => Promise<void>,
): RequestHandler {
  return async (request, response) => {
    assertCommand(request, token, "Imports are");
    const { format } = checked(importSchema, request.query);
    try {
      const told = await importSamples(store, format, request, limits());
      await done();
      response.json(told);
    } catch (error) {
      if (error instanceof ImportError) {
        if (error.cause instanceof TextError) throw new Problem(422, "the-file-cannot-be-read", error.message);
        throw new Problem(request.readableAborted ? 400 : 503, "the-import-went-no-further", error.message);
      }
      throw error;
    }
  };
}
