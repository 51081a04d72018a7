import { Router } from "express";
import * as routes from "../../core/api/sources.ts";
import { ReadingsReader } from "../../core/pages/readings-reader.ts";
import { TextError } from "../../core/pages/text-error.ts";
import { snmpCredentials } from "../gather/open-device.ts";
import { SnmpSession } from "../gather/snmp/snmp-wire.ts";
import { walkDevice } from "../gather/snmp/walk-device.ts";
import { serve } from "../http/serve.ts";
import { diagnose } from "../transport/diagnose.ts";
import { PullError } from "../transport/pull-error.ts";
import { trySchema, walkSchema } from "./source-schema.ts";
import { failureOf } from "./failure-of.ts";
import type { Sources } from "./sources.ts";
import { triedPage, triedReading } from "./tried-page.ts";

/** Asks what is to be a source once, before it is saved: what it would give, or why nothing comes. */
export function tryingRouter(sources: Sources): Router {
  const router = Router();

  serve(
    router,
    routes.trySource,
    { body: trySchema },
    async ({ body: { address, device, trust, credentials, id, ...source } }) => {
      const nowMs = Date.now();
      const began = performance.now();
      try {
        if (device) {
          const { readings, leftOut, raw } = await sources.askDevice(device, trust, credentials, id);
          const reader = new ReadingsReader();
          return triedReading(
            source,
            { page: reader.read(readings, undefined, leftOut), reader },
            { bytes: raw.length, format: "device", tookMs: performance.now() - began },
            sources.limits,
          );
        }
        const pulled = await sources.ask({ address, trust }, credentials, id);
        return triedPage(source, pulled.bytes, pulled.dialect, sources.limits, pulled.tookMs);
      } catch (error) {
        if (!(error instanceof PullError || error instanceof TextError)) throw error;
        return {
          kind: "failed" as const,
          failure: failureOf(
            error instanceof PullError ? error : await diagnose(error, address as NonNullable<typeof address>),
            nowMs,
          ),
        };
      }
    },
  );

  /** Everything that a device of SNMP has, in words. */
  serve(router, routes.walkSource, { body: walkSchema }, async ({ body: { device, credentials, id, after } }) => {
    const wire = new SnmpSession(
      device,
      snmpCredentials(
        await sources.credentialsFor(credentials, id, { address: null, device, trust: { kind: "system" } }),
      ),
    );
    try {
      return { kind: "walked" as const, walk: await walkDevice(wire, Date.now(), after) };
    } catch (error) {
      if (!(error instanceof PullError)) throw error;
      return { kind: "failed" as const, failure: failureOf(error, Date.now()) };
    } finally {
      wire.close();
    }
  });
  return router;
}
