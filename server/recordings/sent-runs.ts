import express, { type Request, type RequestHandler, type Response } from "express";
import { bearerOf } from "../people/bearer.ts";
import { sameToken } from "../people/same-token.ts";
import type { Tokens } from "../people/tokens.ts";
import { checked } from "../http/checked.ts";
import { storableBody } from "../http/storable-body.ts";
import { beginAsked, type BeginParts } from "./begin-asked.ts";
import { noSuchRecording } from "./no-such-run.ts";
import { beginSchema } from "./recording-schema.ts";

/**
 * Begins runs for scripts: with a source's own token, or, of `bin/nubrel`, with that of the start command. The path
 * names the recording by its number or its name. Others go on to the sign-in.
 */
export function sentRuns(
  parts: BeginParts & { readonly tokens: Tokens; readonly commandToken: string | undefined },
): RequestHandler {
  const body = async (request: Request, response: Response) => {
    for (const read of [express.json({ limit: "100kb" }), storableBody])
      await new Promise<void>((done, failed) =>
        read(request, response, (error?: unknown) => (error ? failed(error) : done())),
      );
  };
  return async (request, response, next) => {
    const token = bearerOf(request);
    if (token === undefined) return next();
    const isCommand = parts.commandToken !== undefined && sameToken(token, parts.commandToken);
    if (!isCommand && (await parts.tokens.check(token, request.ip))?.scope !== "write") return next();
    const which = String(request.params["id"]);
    const row = parts.recordings.find(/^\d+$/.test(which) ? Number(which) : which);
    if (!row) throw noSuchRecording(which);
    await body(request, response);
    response.status(201).json(await beginAsked(parts, row, "script", checked(beginSchema, request.body ?? {})));
  };
}
