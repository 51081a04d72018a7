import * as routes from "../../core/api/transport.ts";
import { serve } from "../http/serve.ts";
import { Router } from "express";
import type { Transport } from "./transport.ts";
import { Problem } from "../http/problem.ts";

/** How the server speaks; for people who are signed in. */
export function transportRouter(transport: Transport): Router {
  const router = Router();
  serve(router, routes.getTransport, {}, () => transport.view(Date.now()));
  return router;
}

/** The house authority's certificate: no secret, and needed before anybody can come safely. */
export function authorityRouter(transport: Transport): Router {
  const router = Router();
  router.get("/house-authority.crt", (_request, response) => {
    const { authorityPem } = transport.view(Date.now());
    if (authorityPem === null)
      throw new Problem(
        404,
        "no-house-authority",
        "This server's certificate was not issued by an authority of its own.",
      );
    response
      .type("application/x-x509-ca-cert")
      .setHeader("Content-Disposition", 'attachment; filename="nubrel-house-authority.crt"');
    response.send(authorityPem);
  });
  return router;
}
