import { basePathOf } from "../../http/asked-below.ts";
import { issuerLinked } from "../../../core/audit/deed-words.ts";
import { serialize } from "cookie";
import { type Request, type RequestHandler, type Response, Router } from "express";
import Joi from "joi";
import type { Logger } from "pino";
import * as routes from "../../../core/api/issuer.ts";
import { type IssuerSettings, type IssuerView, type NotInReason, notInParameter } from "../../../core/api/issuer.ts";
import type { Database } from "../../db/pool.ts";
import { allowed } from "../../http/allowed.ts";
import { personOf } from "../../http/asker.ts";
import { Problem } from "../../http/problem.ts";
import { serve } from "../../http/serve.ts";
import { enteredAs, noteEntered, witnessOf } from "../../http/witness.ts";
import type { SecretBox } from "../../sources/secret-box.ts";
import { accountOf } from "../account-rows.ts";
import type { Entrance } from "../entrance.ts";
import { dropIssued } from "../way-in-rows.ts";
import { noteFactorChange } from "../places/change-rows.ts";
import { listSessions, noteProof } from "../session-rows.ts";
import { cookieName, cookieOf } from "../signed-in.ts";
import { siteOf } from "../site.ts";
import { issuedPerson } from "./issued-person.ts";
import { type Asked, type Issuer, IssuerError, NotIn } from "./issuer.ts";
import {
  accountOfSubject,
  dropIssuerRow,
  issuerRow,
  keepIssuer,
  LinkedOtherwiseError,
  linkSubject,
} from "./issuer-rows.ts";

interface IssuerParts {
  readonly database: Database;
  readonly entrance: Entrance;
  readonly issuer: Issuer;
  readonly box: SecretBox;
  readonly log: Logger;
  /** The time by which sessions end (clock/server-clock.ts). */
  readonly acting: () => number;
}

const backPath = "/session/issuer/back";
/** What the browser keeps while it is at the issuer's. */
const askedCookie = "nubrel_asked";
const askedSeconds = 600;

const toSchema = Joi.object<{ to?: string }>({
  to: Joi.string()
    .max(2000)
    .pattern(/^\/(?![/\\])/)
    .messages({ "string.pattern.base": '{{#label}} is no path of this server, such as "/alerts"' }),
});
const values = Joi.array().items(Joi.string().min(1).max(200)).max(100).unique().default([]);
const settingsSchema = Joi.object<IssuerSettings & { secret?: string }>({
  url: Joi.string()
    .max(500)
    .uri({ scheme: ["http", "https"] })
    .required(),
  clientId: Joi.string().trim().min(1).max(200).required(),
  secret: Joi.string().max(1000).allow(""),
  name: Joi.string().trim().min(1).max(40).required(),
  scopes: Joi.string()
    .max(300)
    .pattern(/(^|\s)openid(\s|$)/)
    .default("openid profile email")
    .messages({ "string.pattern.base": '{{#label}} has to hold "openid"' }),
  roles: Joi.object({
    claim: Joi.string().trim().min(1).max(200).required(),
    owner: values,
    keeper: values,
    viewer: values,
    others: Joi.valid("viewer", "keeper", null).default(null),
  }).required(),
});

/** The way in by an issuer, for anybody. */
export function issuerEntranceRouter(parts: IssuerParts): Router {
  const router = Router();
  serve(router, routes.beginIssuerSignIn, { body: toSchema }, ({ request, response, body }) =>
    elsewhere(parts, request, response, { kind: "enter", to: body.to ?? `${basePathOf(request)}/` }),
  );
  router.get(backPath, allowed({ method: "GET", path: backPath }), cameBack(parts));
  return router;
}

/** The issuer itself, for owners; and of each person, whether they sign in by it. */
export function issuerRouter(parts: IssuerParts): Router {
  const { database, box, issuer } = parts;
  const router = Router();
  const view = async (request: Request): Promise<IssuerView> => {
    const kept = await issuerRow(database);
    return { issuer: kept ? { ...kept.settings, hasSecret: kept.secret !== null } : null, back: backOf(request) };
  };

  serve(router, routes.getIssuer, {}, ({ request }) => view(request));

  serve(router, routes.putIssuer, { body: settingsSchema }, async ({ request, body: { secret, ...settings } }) => {
    const before = await issuerRow(database);
    // A secret serves the issuer for which it was entered, and no other.
    const kept = before?.settings.url === settings.url ? before.secret : null;
    const next = secret === undefined ? kept : secret === "" ? null : box.seal(secret).toString("base64");
    await told(() => issuer.reach({ settings, secret: next }), "url");
    await keepIssuer(database, personOf(request).id, { settings, secret: next });
    return await view(request);
  });

  serve(router, routes.dropIssuer, {}, async ({ request }) => {
    await dropIssuerRow(database, personOf(request).id);
  });

  serve(router, routes.beginIssuerLink, { body: toSchema }, ({ request, response, body }) => {
    const { id: accountId, sessionId } = personOf(request);
    return elsewhere(parts, request, response, { kind: "link", to: body.to ?? "/account", accountId, sessionId });
  });

  serve(router, routes.beginIssuerProof, { body: toSchema }, ({ request, response, body }) => {
    const { id: accountId, sessionId } = personOf(request);
    return elsewhere(parts, request, response, { kind: "prove", to: body.to ?? "/account", accountId, sessionId });
  });

  serve(router, routes.dropIssuerLink, {}, async ({ request }) => {
    const { id } = personOf(request);
    const dropped = await dropIssued(database, id);
    if (!dropped) throw new Problem(404, "not-linked", "You do not sign in by the issuer.");
  });
  return router;
}

const backOf = (request: Request): string => `${siteOf(request).root}/api${backPath}`;

/** Sends a browser to the issuer's; it keeps what was asked for, sealed, until it is back. */
async function elsewhere(
  { issuer }: IssuerParts,
  request: Request,
  response: Response,
  wish: Pick<Asked, "kind" | "to" | "accountId" | "sessionId">,
): Promise<{ readonly url: string }> {
  const { url, sealed } = await told(() => issuer.begin(backOf(request), wish));
  response.append("Set-Cookie", askedAs(request, sealed, askedSeconds));
  return { url };
}

/** Another site's page leads back here, so that a strict cookie would not come along. */
const askedAs = (request: Request, sealed: string, maxAge: number): string =>
  serialize(cookieName(request, askedCookie), sealed, {
    ...{ httpOnly: true, sameSite: "lax", path: "/", secure: request.secure, maxAge },
  });

/** Has a person be told why the issuer cannot be asked. */
async function told<T>(ask: () => Promise<T>, field?: string): Promise<T> {
  try {
    return await ask();
  } catch (error) {
    if (!(error instanceof IssuerError)) throw error;
    throw new Problem(422, "the-issuer-cannot-be-asked", error.message, {
      ...(field !== undefined && { errors: [{ path: field, message: error.message }] }),
    });
  }
}

/** Somebody comes back from the issuer: they are let in, linked or known again, and sent where they wanted to be. */
function cameBack(parts: IssuerParts): RequestHandler {
  return async (request, response) => {
    const asked = parts.issuer.asked(cookieOf(request, askedCookie));
    response.append("Set-Cookie", askedAs(request, "", 0));
    const did = asked?.kind === "link" ? issuerLinked : `GET ${backPath}`;
    try {
      if (!asked) throw new NotIn("late");
      await settle(parts, request, response, asked);
      await witnessOf(request)?.note(request, {
        did,
        subject: "",
        named: enteredAs(request) ?? "nobody",
        outcome: "done",
      });
      response.redirect(303, asked.to);
    } catch (error) {
      if (!(error instanceof NotIn)) throw error;
      const { reason, cause } = error;
      if (cause !== undefined) parts.log.warn({ err: cause, reason }, "nobody came in by the issuer");
      await witnessOf(request)?.note(request, { did, subject: "", outcome: `refused: ${reason}` });
      response.redirect(
        303,
        withReason(asked?.kind === "enter" || !asked ? `${basePathOf(request)}/` : asked.to, reason),
      );
    }
  };
}

function withReason(to: string, reason: NotInReason): string {
  const address = new URL(to, "http://nubrel.invalid");
  address.searchParams.set(notInParameter, reason);
  return address.pathname + address.search + address.hash;
}

async function settle(parts: IssuerParts, request: Request, response: Response, asked: Asked): Promise<void> {
  const { database, entrance, issuer, acting } = parts;
  // Each is asked for with a name of its own: only tries from one address add up.
  const trying = entrance.trying(request, `issuer ${asked.state}`, undefined);
  await entrance.assertMayTry(trying);
  const address = new URL(request.originalUrl, siteOf(request).origin);
  const who = await issuer.told(address, asked);
  await entrance.noteRight(trying);
  if (asked.kind === "enter") {
    const person = await issuedPerson(database, who);
    await entrance.changed(person.id); // their role may be another now
    await entrance.enter(request, response, person);
    return;
  }
  const { accountId = 0, sessionId = 0 } = asked;
  const account = await accountOf(database, accountId);
  // Whoever ended the session that this was begun in ended this with it.
  const isOpen = (await listSessions(database, accountId, acting())).some(({ id }) => id === sessionId);
  if (!account || !isOpen) throw new NotIn("late");
  noteEntered(request, account.name);
  if (asked.kind === "link") {
    await linkSubject(database, accountId, who).catch((error: unknown) => {
      throw error instanceof LinkedOtherwiseError ? new NotIn("taken", error) : error;
    });
    await noteFactorChange(database, { accountId, sessionId, did: issuerLinked });
    return;
  }
  const known = await accountOfSubject(database, who);
  if (known?.id !== accountId) throw new NotIn("other");
  await noteProof(database, sessionId, acting());
}
