import type { RequestHandler } from "express";
import { checked } from "../http/checked.ts";
import { handedRequest } from "../http/from-beside.ts";
import { Problem } from "../http/problem.ts";
import { wishedOf } from "../intake/push-router.ts";
import { wholeBody } from "../intake/request-body.ts";
import type { Sources } from "../sources/sources.ts";
import { type Account, accountsSchema, type Wishes } from "./account.ts";

const mostBytes = 134_217_728;

/** Notes what servers that stand beside this one have stored of what sources sent to them, and tells what is wished of those. */
export function takesAccounts(sources: Sources): RequestHandler {
  return async (request, response) => {
    if (!handedRequest(request)?.isOwn)
      throw new Problem(
        403,
        "you-may-not-do-this",
        "Only a server that stands beside this one says here what it has stored.",
      );
    const text = (await wholeBody(request, mostBytes)).toString("utf8");
    const { accounts, collectors } = checked(accountsSchema, JSON.parse(text));
    for (const account of accounts) note(sources, account);
    sources.noteExpected();
    const nowMs = Date.now();
    const wishes = collectors.flatMap((source) => {
      const run = sources.find(source);
      const told = run ? wishedOf(run, sources, nowMs) : {};
      return Object.keys(told).length > 0 ? [{ source, told }] : [];
    });
    response.json({ wishes } satisfies Wishes);
  };
}

/** What was removed or paused since is not heard of. */
function note(sources: Sources, { source, version, raw, ...taken }: Account): void {
  const run = sources.find(source);
  if (!run || run.source.pause) return;
  if (version !== null && run.source.kind === "collector") sources.noteSenderVersion(run, version);
  if (raw) run.keepRaw(Buffer.from(raw.base64, "base64"), raw.contentType, raw.atMs, raw.isWhole);
  run.tookElsewhere(taken);
}
