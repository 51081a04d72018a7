import type { Request, RequestHandler } from "express";
import { RecordError, readRecord } from "../../core/relay/read-record.ts";
import { utf8Text } from "../../core/text/utf8.ts";
import { handedRequest } from "../http/from-beside.ts";
import { Problem } from "../http/problem.ts";
import { wholeBody } from "../intake/request-body.ts";
import type { Sources } from "../sources/sources.ts";

/** What is sent together, and one record that is larger by itself. */
const mostBytes = 134_217_728;

/** Takes what servers that stand beside this one gathered; answers when it is durable. */
export function takesSharedRecords(sources: Sources): RequestHandler {
  return async (request: Request, response) => {
    if (!handedRequest(request)?.isOwn)
      throw new Problem(
        403,
        "you-may-not-do-this",
        "Only a server that stands beside this one sends what it gathered here.",
      );
    if (!sources.isStoring)
      throw new Problem(503, "the-store-is-busy", "The database is away; what was gathered is sent again.", {
        retryAfterSeconds: 1,
      });
    await takeRecords(sources, (utf8Text(await wholeBody(request, mostBytes)) ?? "").split("\n"));
    response.sendStatus(204);
  };
}

/** Stores what was gathered beside the server that leads, a record a line. Resolves when it is durable. */
export async function takeRecords(sources: Sources, lines: readonly string[]): Promise<void> {
  await Promise.all(lines.map((line) => line !== "" && takeLine(sources, line)));
  sources.noteExpected();
}

/** What was removed or paused since is left, and what is no record: it would be no better the next time. */
async function takeLine(sources: Sources, line: string): Promise<void> {
  try {
    const record = readRecord(line);
    const run = sources.find(record.source);
    if (run && !run.source.pause) await sources.takeSent(run, record);
  } catch (error) {
    if (!(error instanceof RecordError)) throw error;
  }
}
