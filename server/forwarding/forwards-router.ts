import { Router } from "express";
import Joi from "joi";
import * as routes from "../../core/api/forwards.ts";
import type { ForwardBody } from "../../core/api/forwards.ts";
import { checkedPem } from "../sources/source-schema.ts";
import { serve } from "../http/serve.ts";
import type { Forwarding } from "./forwarding.ts";

const headerName = /^[!#$%&'*+.^_`|~0-9A-Za-z-]{1,100}$/; // RFC 9110 §5.1
const own = /^(content-|host$|connection$|transfer-encoding$|user-agent$)/i;
const pattern = Joi.string().trim().min(1).max(200);

const forwardSchema = Joi.object<ForwardBody>({
  name: Joi.string().trim().min(1).max(100).required(),
  url: Joi.string()
    .max(2000)
    .uri({ scheme: ["http", "https"] })
    .custom((url: string, helpers) => (new URL(url).username === "" ? url : helpers.error("named")))
    .required()
    .messages({
      "string.uriCustomScheme": "{{#label}} begins with https:// or http://, then name, port and path",
      named: "{{#label}} holds a name or a password; they belong into a header (Authorization)",
    }),
  headers: Joi.array()
    .items(
      Joi.string()
        .pattern(headerName)
        .custom((name: string, helpers) => (own.test(name) ? helpers.error("own") : name))
        .messages({
          own: "{{#label}} is a header that Nubrel sets itself",
          "string.pattern.base": "{{#label}} is no name of a header",
        }),
    )
    .unique((a: string, b: string) => a.toLowerCase() === b.toLowerCase())
    .max(20)
    .default([]),
  values: Joi.object()
    .pattern(
      Joi.string().max(100),
      Joi.string()
        .max(8000)
        .allow("")
        .pattern(/^[^\r\n\0]*$/),
    )
    .default({}),
  issuer: Joi.string().allow("").max(65_536).custom(checkedPem).default(""),
  counters: Joi.array().items(pattern).min(1).max(100).required(),
  machine: pattern.default("*"),
  everySeconds: Joi.number().integer().min(1).max(3600).default(15),
  isOn: Joi.boolean().default(true),
});

/** What is sent on to other receivers. */
export function forwardsRouter(forwarding: Forwarding): Router {
  const router = Router();
  serve(router, routes.listForwards, {}, () => forwarding.views());
  serve(router, routes.makeForward, { body: forwardSchema }, ({ body }) => forwarding.make(body, Date.now()));
  serve(router, routes.changeForward, { body: forwardSchema }, ({ params, body }) =>
    forwarding.change(params.id, body),
  );
  serve(router, routes.removeForward, {}, ({ params }) => forwarding.remove(params.id));
  return router;
}
