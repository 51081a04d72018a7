import { Router } from "express";
import { getDemo } from "../../core/api/demo.ts";
import { isLoopback } from "../http/loopback.ts";
import { serve } from "../http/serve.ts";
import type { DemoInfo } from "./demo-info.ts";

/** The sample world, where this is one. Its password is for who sits at this machine. */
export function demoRouter(demo: DemoInfo | undefined): Router {
  const router = Router();
  serve(router, getDemo, {}, ({ request }) =>
    demo && isLoopback(request.socket.remoteAddress ?? "") ? { ...demo.owner, progress: demo.progress() } : null,
  );
  return router;
}
