import { type Request, type RequestHandler, Router } from "express";
import type { DiagnosisKind } from "../../core/sources/source-failure.ts";
import type { GatherFaster, PushAnswer } from "../../core/api/sources.ts";
import { plainName } from "../../core/counters/catalogue.ts";
import { TableReader } from "../../core/formats/csv/table-reader.ts";
import { tableText } from "../../core/formats/csv/table-text.ts";
import { findTableShape, type GivenShape } from "../../core/formats/csv/table-shape.ts";
import { OtlpError } from "../../core/formats/otlp/otlp-messages.ts";
import { TextError } from "../../core/pages/text-error.ts";
import { writeToken } from "../people/bearer.ts";
import { checked } from "../http/checked.ts";
import { Problem } from "../http/problem.ts";
import { type TableQuery, tableQuery } from "../sources/source-schema.ts";
import type { Tokens } from "../people/tokens.ts";
import { isLoopback } from "../http/loopback.ts";
import type { SourceRun } from "../sources/source-run.ts";
import type { Sources } from "../sources/sources.ts";
import type { LargeBodies } from "./large-bodies.ts";
import { answerOfPage, collectorVersion, dialectOf, mostRaw, rawOf } from "./push-answer.ts";
import { bodyPieces, wholeBody } from "./request-body.ts";

const headBytes = 65_536;

/** What machines send. Every request is let in by its source's token and answered when what was taken is durable. */
export function pushRouter(tokens: Tokens, sources: Sources, bodies: LargeBodies): Router {
  const router = Router();
  router.post("/push/openmetrics", taking(tokens, sources, pushPage));
  router.post(
    "/push/csv",
    taking(tokens, sources, (run, request) => pushTable(run, request, sources, bodies)),
  );
  return router;
}

/** A table. How it is read was confirmed by a person, or leaves no doubt. */
async function pushTable(run: SourceRun, request: Request, sources: Sources, bodies: LargeBodies): Promise<PushAnswer> {
  const nowMs = Date.now();
  const bytes = await wholeBody(request, sources.limits.bodyBytes);
  const charset = /charset="?([\w-]+)/i.exec(request.headers["content-type"] ?? "")?.[1];
  // Its first rows tell how it is read; a letter of two bytes is not cut.
  const { text: begin, encoding } = tableText(
    bodies.isLarge(bytes) ? bytes.subarray(0, bytes.lastIndexOf("\n", headBytes) + 1) : bytes,
    charset,
  );
  const text = bodies.isLarge(bytes) ? begin.slice(0, begin.lastIndexOf("\n") + 1) : begin;
  run.keepRaw(
    encoding === "utf-8" ? bytes : Buffer.from(text),
    "text/csv",
    nowMs,
    encoding === "utf-8" || !bodies.isLarge(bytes),
  );
  const given = givenShape(checked(tableQuery, request.query));
  const guess = run.source.csv
    ? { shape: { ...run.source.csv, ...given }, doubts: [] }
    : findTableShape(text, given, run.knownColumns());
  if (!guess)
    throw new TextError("no column of times was found; a table has a heading, a column of times, and values", 1);
  // What a counter log leaves open is only the zone, and typeperf writes that.
  if (guess.doubts.length > 0)
    throw new Problem(
      422,
      "how-is-it-read",
      `${guess.doubts.join(" ")} Confirm how tables of this source are read on its page under Sources, or say it in the address (?decimal=, ?times=d/m/y ?zone=60 ?tags=room,site), then send it again. Nothing of it was taken.`,
    );
  if (bodies.isLarge(bytes)) {
    const { seriesPerSource, tags } = sources.limits;
    const read = await bodies.read({
      bytes,
      as: { format: "csv", shape: guess.shape, charset },
      tags,
      newSeries: seriesPerSource,
    });
    return answerOfPage(await run.takeRead(read, nowMs), new Map());
  }
  const intake = run.lend("csv", ({ seriesPerSource }) => new TableReader(seriesPerSource));
  try {
    const page = intake.reader.read(text, guess.shape);
    return answerOfPage(await run.take(intake, page, nowMs), new Map());
  } finally {
    run.giveBack("csv", intake);
  }
}

function givenShape({ decimal, times, zone, tags }: TableQuery): GivenShape {
  return {
    ...(decimal !== undefined && { decimal }),
    ...(times !== undefined && { timeForm: times }),
    ...(zone !== undefined && { offsetMinutes: zone }),
    ...(tags !== undefined && {
      tags: tags
        .split(",")
        .map((name) => name.trim())
        .filter((name) => name !== ""),
    }),
  };
}

type Take = (run: SourceRun, request: Request, sources: Sources) => Promise<PushAnswer>;

/**
 * Finds the source of a request's token, has `take` read and store its body, and notes with the source what came of it.
 */
function taking(tokens: Tokens, sources: Sources, take: Take): RequestHandler {
  return async (request, response) => {
    const run = await runOf(tokens, sources, request);
    try {
      response.json(await take(run, request, sources));
    } catch (error) {
      noteRefusal(run, error);
      throw asProblem(error);
    }
  };
}

export async function runOf(tokens: Tokens, sources: Sources, request: Request): Promise<SourceRun> {
  const { sourceId } = await writeToken(tokens, request);
  const run = sources.find(sourceId);
  if (!run) throw new Problem(403, "the-source-is-gone", "The source of this token was removed.");
  run.isElsewhere = !isLoopback(request.ip ?? "");
  if (run.source.pause)
    throw new Problem(
      409,
      "the-source-is-paused",
      `${run.source.name} is paused under Sources; nothing of it is taken.`,
      { retryAfterSeconds: 60 },
    );
  return run;
}

async function pushPage(run: SourceRun, request: Request, sources: Sources): Promise<PushAnswer> {
  const version = collectorVersion(request.headers["user-agent"]);
  if (version !== undefined && run.source.kind === "collector") sources.noteSenderVersion(run, version);
  const contentType = request.headers["content-type"] ?? "";
  const dialect = dialectOf(contentType);
  const nowMs = Date.now();
  const intake = run.lendPages(dialect);
  const raw: Buffer[] = [];
  let rawBytes = 0;
  let lent = true;
  try {
    intake.reader.begin();
    for await (const piece of bodyPieces(request, sources.limits.bodyBytes)) {
      if (rawBytes < mostRaw) raw.push(piece);
      rawBytes += piece.length;
      intake.reader.feed(piece);
    }
    const page = intake.reader.end();
    keepPieces(run, raw, rawBytes, contentType, nowMs);
    const { leftOut } = page;
    const taking = run.take(intake, page, nowMs); // the page is read to its end here: the reader may go on
    run.giveBack(dialect, intake);
    lent = false;
    const answer = answerOfPage(await taking, leftOut);
    return { ...answer, ...wishedOf(run, sources, nowMs) };
  } catch (error) {
    if (error instanceof TextError) keepPieces(run, raw, rawBytes, contentType, nowMs);
    throw error;
  } finally {
    if (lent) run.giveBack(dialect, intake);
  }
}

/** What a collector is told with the answer to what it sends. */
export function wishedOf(run: SourceRun, sources: Sources, nowMs: number): Pick<PushAnswer, "gather" | "measure"> {
  const { kind, machine } = run.source;
  const gather = gatherOf(run, sources, nowMs);
  const isWished = kind === "collector" && sources.speedWishes.isWished(machine, nowMs);
  return { ...(gather && { gather }), ...(isWished && { measure: "speed" as const }) };
}

/** What a collector is to gather more often than its interval has it; undefined where nothing is. */
function gatherOf({ source }: SourceRun, sources: Sources, nowMs: number): GatherFaster | undefined {
  const haste = source.kind === "collector" ? sources.hasteOf(source.id) : undefined;
  if (!haste || haste.everyMs >= source.intervalMs || haste.untilMs <= nowMs) return undefined;
  // Rules of the source give counters other names: then it gathers all of what it can quickly.
  const counters = source.take.length > 0 ? [] : [...haste.counters].map(plainName);
  return {
    everySeconds: Math.max(1, Math.round(haste.everyMs / 1000)),
    forSeconds: Math.ceil((haste.untilMs - nowMs) / 1000),
    counters: counters.join(" "),
  };
}

/** The first pieces of a body; a long one ends at the end of a line. */
function keepPieces(
  run: SourceRun,
  pieces: readonly Buffer[],
  bodyBytes: number,
  contentType: string,
  nowMs: number,
): void {
  const kept = Buffer.concat(pieces);
  run.keepRaw(rawOf(kept, bodyBytes), contentType, nowMs, kept.length === bodyBytes);
}

/** A body that cannot be read becomes an answer that says where. */
function asProblem(error: unknown): unknown {
  return error instanceof TextError
    ? new Problem(422, "the-body-cannot-be-read", `${error.message}. Nothing of it was taken.`)
    : error;
}

export function noteRefusal(run: SourceRun, error: unknown): void {
  const kind: DiagnosisKind | undefined =
    error instanceof TextError || error instanceof OtlpError
      ? "not the format"
      : error instanceof Problem
        ? error.status === 413
          ? "too large"
          : "refused"
        : undefined;
  if (kind)
    run.failed({
      kind,
      words: `What it sent was refused: ${(error as Error).message}`,
      remedy: "Look at the text as received.",
      atMs: Date.now(),
      certificate: null,
    });
}
