import { randomBytes } from "node:crypto";
import { Router } from "express";
import Joi from "joi";
import type { LinkBody } from "../../core/api/links.ts";
import * as routes from "../../core/api/links.ts";
import type { Dashboard } from "../../core/dashboards/dashboard.ts";
import type { Database } from "../db/pool.ts";
import { nameOf } from "../http/asker.ts";
import { Problem } from "../http/problem.ts";
import { serve } from "../http/serve.ts";
import type { LiveHub } from "../live/live-hub.ts";
import { linkKey } from "../people/signed-in.ts";
import { hashOfSecret, linkOf } from "./by-link.ts";
import { insertLink, listLinkRows, noteLinkOpened, renewLinkRow, revokeLinkRow } from "./link-rows.ts";

interface LinksParts {
  readonly database: Database;
  readonly live: LiveHub;
  /** By which links begin. */
  readonly address: () => Promise<string>;
  /** Which tiles a dashboard has; undefined where there is none with this number. */
  readonly tilesOf: (dashboard: number) => Promise<readonly string[] | undefined>;
  /** The colours of the machines that stand on a dashboard. */
  readonly coloursOf: (document: Dashboard) => Readonly<Record<string, number>>;
}

const longestSeconds = 366 * 86_400;

const windowSchema = Joi.alternatives(
  Joi.object({ last: Joi.number().min(60).max(longestSeconds).required() }),
  Joi.object({
    from: Joi.number().min(0).required(),
    to: Joi.number().greater(Joi.ref("from")).required(),
  }),
);
/** The beginning of an address, and nothing after it (HTML standard, "origin"). */
const originSchema = Joi.string().custom((text: string, helpers) => {
  const isOrigin = URL.canParse(text) && /^https?:$/.test(new URL(text).protocol) && new URL(text).origin === text;
  return isOrigin ? text : helpers.error("any.invalid");
});
const linkSchema = Joi.object<LinkBody>({
  dashboard: Joi.number().integer().min(1).required(),
  tile: Joi.string().max(200),
  until: Joi.string().isoDate().allow(null).required(),
  window: windowSchema.required(),
  name: Joi.string().trim().max(200).allow("").default(""),
  origins: Joi.array()
    .items(originSchema)
    .max(20)
    .unique()
    .default([])
    .messages({ "any.invalid": '{{#label}} is no origin, such as "https://home.example"' }),
});

const againSchema = Joi.object<{ again: boolean }>({ again: Joi.boolean().default(false) });

/** Links that show one dashboard to those who have no account. */
export function linksRouter({ database, live, address, tilesOf, coloursOf }: LinksParts): Router {
  const router = Router();

  serve(router, routes.listLinks, {}, async () => await listLinkRows(database));

  serve(router, routes.makeLink, { body: linkSchema }, async ({ body, request }) => {
    const wrong = (path: string, message: string) =>
      new Problem(422, "the-request-does-not-fit", message, { errors: [{ path, message }] });
    const tiles = await tilesOf(body.dashboard);
    if (!tiles) throw wrong("dashboard", "There is no dashboard with this number; it may have been removed.");
    if (body.tile !== undefined && !tiles.includes(body.tile))
      throw wrong("tile", "The dashboard has no tile with this id.");
    if (body.until !== null && Date.parse(body.until) <= Date.now())
      throw wrong("until", "The end is over already: the link would open nothing.");
    const secret = randomBytes(32).toString("base64url");
    const made = await insertLink(database, body, { hash: hashOfSecret(secret), by: nameOf(request) });
    if (!made) throw wrong("dashboard", "The dashboard was removed meanwhile.");
    return { ...made, url: `${await address()}/s/${secret}` };
  });

  serve(router, routes.renewLink, {}, async ({ params: { id } }) => {
    const renewed = await renewLinkRow(database, id);
    if (!renewed) throw noSuchLink();
    return renewed;
  });

  serve(router, routes.revokeLink, {}, async ({ params: { id } }) => {
    if (!(await revokeLinkRow(database, id))) throw noSuchLink();
    live.endOf(linkKey(id));
  });

  serve(router, routes.getShared, { query: againSchema }, async ({ request, query: { again } }) => {
    const link = linkOf(request);
    if (!link) throw new Error("only links ask for what they show");
    const { id, name, document, tile, window, until } = link;
    if (!again) await noteLinkOpened(database, id);
    const tiles = tile === null ? document.tiles : document.tiles.filter((one) => one.id === tile);
    const shown = { ...document, tiles };
    return { name, document: shown, window, until, colours: coloursOf(shown) };
  });
  return router;
}

const noSuchLink = () => new Problem(404, "no-such-link", "It is not there, has ended, or was revoked before.");
