import { type Request, type Response, Router } from "express";
import { OtlpError } from "../../core/formats/otlp/otlp-messages.ts";
import { readJsonRequest } from "../../core/formats/otlp/otlp-json.ts";
import {
  type MetricsResponse,
  readProtobufRequest,
  writeProtobufResponse,
  writeProtobufStatus,
} from "../../core/formats/otlp/otlp-protobuf.ts";
import { OtlpReader } from "../../core/formats/otlp/otlp-reader.ts";
import { utf8Text } from "../../core/text/utf8.ts";
import { isDatabaseAway } from "../db/database-away.ts";
import { closeEarly, Problem } from "../http/problem.ts";
import type { Tokens } from "../people/tokens.ts";
import type { PageTaken } from "../sources/series-table.ts";
import type { SourceRun } from "../sources/source-run.ts";
import type { Sources } from "../sources/sources.ts";
import { StoreBusyError } from "../store/journal.ts";
import type { LargeBodies } from "./large-bodies.ts";
import { noteRefusal, runOf } from "./push-router.ts";
import { wholeBody } from "./request-body.ts";

/** Codes of google.rpc.Code. */
const invalidArgument = 3;
const unavailable = 14;
const mostShown = 65_536;

/**
 * OTLP over HTTP (OpenTelemetry protocol specification, "OTLP/HTTP"): answers are in the encoding of the request,
 * errors as a Status.
 */
export function otlpRouter(tokens: Tokens, sources: Sources, bodies: LargeBodies): Router {
  const router = Router();
  router.post("/v1/metrics", async (request, response) => {
    const encoding = encodingOf(request);
    let run: SourceRun | undefined;
    try {
      if (!encoding) throw new Problem(415, "unknown-encoding", "Send application/x-protobuf or application/json.");
      run = await runOf(tokens, sources, request);
      const body = await wholeBody(request, sources.limits.bodyBytes);
      send(response, encoding, 200, await take(run, encoding, body, sources, bodies));
    } catch (error) {
      if (run) noteRefusal(run, error);
      if (request.readableAborted) return;
      closeEarly(request, response);
      sendStatus(response, encoding ?? "json", error);
    }
  });
  return router;
}

type Encoding = "json" | "protobuf";

function encodingOf(request: Request): Encoding | undefined {
  const type = request.headers["content-type"] ?? "";
  if (/^application\/x-protobuf\b/i.test(type)) return "protobuf";
  return /^application\/json\b/i.test(type) ? "json" : undefined;
}

async function take(
  run: SourceRun,
  encoding: Encoding,
  body: Buffer,
  { limits }: Sources,
  bodies: LargeBodies,
): Promise<MetricsResponse> {
  const nowMs = Date.now();
  if (bodies.isLarge(body)) {
    if (encoding === "json") run.keepRaw(body, "application/json", nowMs);
    const read = await bodies.read({
      bytes: body,
      as: { format: encoding === "json" ? "otlp-json" : "otlp-protobuf" },
      tags: limits.tags,
      newSeries: limits.seriesPerSource,
    });
    return partialSuccess(await run.takeRead(read, nowMs), read.rejected);
  }
  const text = encoding === "json" ? utf8Text(body) : undefined;
  if (encoding === "json" && text === undefined) throw new OtlpError("this is not UTF-8 text");
  if (text !== undefined) run.keepRaw(body, "application/json", nowMs);
  const request = text === undefined ? readProtobufRequest(body) : readJsonRequest(text);
  // Protobuf is no text: what it says is kept in the other encoding, where that is not much.
  if (text === undefined && body.length < mostShown)
    run.keepRaw(Buffer.from(JSON.stringify(request, null, 1)), "application/json", nowMs);
  const intake = run.lend("otlp", ({ tags, seriesPerSource }) => new OtlpReader(tags, seriesPerSource));
  const { page, rejected } = intake.reader.read(request);
  const taking = run.take(intake, page, nowMs);
  run.giveBack("otlp", intake);
  return partialSuccess(await taking, rejected);
}

/** What of a request was not taken. Samples that were left by a person's own rules are no failure of the sender's. */
function partialSuccess({ leftOut }: PageTaken, rejected: number): MetricsResponse {
  const told = Object.entries(leftOut).filter(
    ([reason]) =>
      reason !== "left by a rule" && reason !== "a delta that was counted already" && reason !== "no recorded value",
  );
  if (told.length === 0) return {};
  const rejectedDataPoints = Math.max(
    rejected,
    told.reduce((sum, [, n]) => sum + n, 0),
  );
  return {
    partialSuccess: { rejectedDataPoints, errorMessage: told.map(([reason, n]) => `${n}: ${reason}`).join("; ") },
  };
}

function send(response: Response, encoding: Encoding, status: number, answer: MetricsResponse): void {
  response.status(status);
  if (encoding === "json")
    response.type("application/json").send(
      JSON.stringify(
        answer.partialSuccess
          ? {
              partialSuccess: {
                rejectedDataPoints: String(answer.partialSuccess.rejectedDataPoints),
                errorMessage: answer.partialSuccess.errorMessage,
              },
            }
          : {},
      ),
    );
  else response.type("application/x-protobuf").send(Buffer.from(writeProtobufResponse(answer)));
}

/** Senders try again at 429, 502, 503 and 504 and at no others ("Retryable Response Codes"). */
function sendStatus(response: Response, encoding: Encoding, error: unknown): void {
  const [status, message] =
    error instanceof Problem
      ? [error.status === 409 ? 503 : error.status, error.message]
      : error instanceof OtlpError
        ? [400, `${error.message}. Nothing of it was taken.`]
        : error instanceof StoreBusyError || isDatabaseAway(error)
          ? [503, "Nubrel cannot store this just now."]
          : [500, "Nubrel failed at this request; its log says why."];
  const code = status >= 500 ? unavailable : invalidArgument;
  if (status === 503) response.setHeader("Retry-After", "5");
  response.status(status);
  if (encoding === "json") response.type("application/json").send(JSON.stringify({ code, message }));
  else response.type("application/x-protobuf").send(Buffer.from(writeProtobufStatus(message, code)));
}
