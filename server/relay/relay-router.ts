import { type Request, Router } from "express";
import Joi from "joi";
import { RecordError, readRecord } from "../../core/relay/read-record.ts";
import type { RelayAnswer, RelayRecord, RelayState, RelayTaken } from "../../core/relay/relay-wire.ts";
import { utf8Text } from "../../core/text/utf8.ts";
import type { Database } from "../db/pool.ts";
import { checked } from "../http/checked.ts";
import { Problem } from "../http/problem.ts";
import { wholeBody } from "../intake/request-body.ts";
import { signalOf } from "../http/signal-of.ts";
import { writeToken } from "../people/bearer.ts";
import type { Tokens } from "../people/tokens.ts";
import type { SourceRun } from "../sources/source-run.ts";
import type { Sources } from "../sources/sources.ts";
import type { RelayDesk } from "./relay-desk.ts";
import { noteTaken, takenOf } from "./relay-rows.ts";

/** A part of a spool has 128 KiB packed; what a device says packs to a tenth, and seldom to a hundredth. */
const mostBytes = 67_108_864;

const workSchema = Joi.object<{ state: RelayState; answers: readonly RelayAnswer[] }>({
  state: Joi.object({
    version: Joi.string().max(50).required(),
    life: Joi.string().max(100).required(),
    mark: Joi.string().max(100).allow(null).required(),
    waiting: Joi.object({
      records: Joi.number().integer().min(0).required(),
      bytes: Joi.number().integer().min(0).required(),
      sinceMs: Joi.number().allow(null).required(),
    }).required(),
    dropped: Joi.number().integer().min(0).required(),
    failure: Joi.string().max(500).allow(null),
  }).required(),
  answers: Joi.array()
    .items(Joi.object({ task: Joi.number().integer().required(), tookMs: Joi.number().required() }).unknown())
    .max(100)
    .required(),
});

interface RelayParts {
  readonly database: Database;
  readonly tokens: Tokens;
  readonly sources: Sources;
  readonly desk: RelayDesk;
}

/** Relays ask for work and send what they gathered, each with the token of its source. */
export function relayRouter({ database, tokens, sources, desk }: RelayParts): Router {
  const router = Router();

  router.post("/relay/work", async (request, response) => {
    const run = await relayOf(tokens, sources, request);
    const { state, answers } = checked(workSchema, jsonOf(await wholeBody(request, mostBytes)));
    response.json(await desk.work(run, state, answers, signalOf(response)));
  });

  router.post("/relay/records", async (request, response) => {
    const run = await relayOf(tokens, sources, request);
    const life = String(request.headers["nubrel-relay-life"] ?? "").slice(0, 100);
    if (!sources.isStoring)
      throw new Problem(
        503,
        "the-store-is-busy",
        "The database is away; the relay keeps what it has until it is back.",
        {
          retryAfterSeconds: 10,
        },
      );
    const lines = textOf(await wholeBody(request, mostBytes)).split("\n");
    const before = await takenOf(database, run.source.id, life);
    const records = lines.flatMap((line) => (line === "" ? [] : (recordOf(run, line) ?? [])));
    const fresh = records.filter(({ seq }) => seq > before);
    await Promise.all(fresh.map((record) => takeRecord(sources, run, record)));
    const takenUntil = records.reduce((last, { seq }) => Math.max(last, seq), before);
    if (takenUntil > before) await noteTaken(database, run.source.id, life, takenUntil);
    response.json({ takenUntil } satisfies RelayTaken);
  });
  return router;
}

/** The relay whose token a request has. */
async function relayOf(tokens: Tokens, sources: Sources, request: Request): Promise<SourceRun> {
  const { sourceId } = await writeToken(tokens, request);
  const run = sources.find(sourceId);
  if (!run) throw new Problem(403, "the-source-is-gone", "The relay of this token was removed.");
  if (run.source.kind !== "relay")
    throw new Problem(409, "not-a-relay", `This is the token of ${run.source.name}, which is no relay.`);
  run.isElsewhere = true;
  return run;
}

/** What is no record is told at the relay's page, and left: it would be no better the next time. */
function recordOf(run: SourceRun, line: string): RelayRecord | undefined {
  try {
    return readRecord(line);
  } catch (error) {
    if (!(error instanceof RecordError)) throw error;
    run.failed({
      kind: "not the format",
      words: `A record that it sent cannot be read: ${error.message}.`,
      remedy: "Bring the relay and this server to the same version.",
      atMs: Date.now(),
      certificate: null,
    });
    return undefined;
  }
}

/** Only what this relay was told to ask is taken of it; what was paused or moved away since is left. */
async function takeRecord(sources: Sources, relay: SourceRun, record: RelayRecord): Promise<void> {
  const run = sources.find(record.source);
  if (!run || run.source.pause) return;
  const isIts = run.source.id === relay.source.id || run.source.askedFrom === relay.source.id;
  if (isIts) await sources.takeSent(run, record);
}

function textOf(bytes: Buffer): string {
  const text = utf8Text(bytes);
  if (text === undefined) throw new Problem(422, "the-body-cannot-be-read", "This is not UTF-8 text.");
  return text;
}

function jsonOf(bytes: Buffer): unknown {
  try {
    return JSON.parse(textOf(bytes));
  } catch (error) {
    if (error instanceof Problem) throw error;
    throw new Problem(400, "the-body-cannot-be-read", "This is not JSON.");
  }
}
