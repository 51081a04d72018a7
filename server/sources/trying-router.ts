import { Router } from "express";
import * as routes from "../../core/api/sources.ts";
import type { TryAnswer } from "../../core/api/sources.ts";
import type { Asked, RelayAnswer } from "../../core/relay/relay-wire.ts";
import type { IntakeLimits } from "../../core/sources/intake-limits.ts";
import type { PullAddress } from "../../core/sources/source.ts";
import type { Gathered } from "../gather/device-gatherer.ts";
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

/** Has a relay ask something once. Throws Problem where it is away. */
export type AskThere = (relay: number, asked: Asked) => Promise<RelayAnswer>;

/** Asks what is to be a source once, before it is saved: what it would give, or why nothing comes. */
export function tryingRouter(sources: Sources, there: AskThere): Router {
  const router = Router();

  serve(
    router,
    routes.trySource,
    { body: trySchema },
    async ({ body: { address, device, trust, credentials, askedFrom, id, ...source } }) => {
      const nowMs = Date.now();
      const began = performance.now();
      try {
        if (askedFrom !== null) {
          const known = await sources.credentialsFor(credentials, id, { address, device, trust, askedFrom });
          const what = device
            ? { kind: "device" as const, device }
            : { kind: "page" as const, address: address as PullAddress };
          return triedThere(source, await there(askedFrom, { ...what, trust, credentials: known }), sources.limits);
        }
        if (device) {
          const gathered = await sources.askDevice(device, trust, credentials, id);
          return triedDevice(source, gathered, performance.now() - began, sources.limits);
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
  serve(router, routes.walkSource, { body: walkSchema }, async ({ body }) => {
    const { device, credentials, askedFrom, id, after } = body;
    const place = { address: null, device, trust: { kind: "system" as const }, askedFrom };
    const known = await sources.credentialsFor(credentials, id, place);
    if (askedFrom !== null) {
      const answer = await there(askedFrom, { kind: "walk", device, credentials: known, after });
      if (answer.kind === "walked") return { kind: "walked" as const, walk: answer.walk };
      if (answer.kind === "failed") return { kind: "failed" as const, failure: answer.failure };
      throw new Error(`a relay answered a walk with ${answer.kind}`);
    }
    const wire = new SnmpSession(device, snmpCredentials(known));
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

type Tried = Parameters<typeof triedPage>[0];

function triedDevice(
  source: Tried,
  { readings, leftOut, raw }: Pick<Gathered, "readings" | "leftOut" | "raw">,
  tookMs: number,
  limits: IntakeLimits,
): TryAnswer {
  const reader = new ReadingsReader();
  const page = reader.read(readings, undefined, leftOut);
  return triedReading(source, { page, reader }, { bytes: raw.length, format: "device", tookMs }, limits);
}

/** What a relay's answer would give as a source. Throws TextError. */
function triedThere(source: Tried, answer: RelayAnswer, limits: IntakeLimits): TryAnswer {
  if (answer.kind === "failed") return { kind: "failed", failure: answer.failure };
  if (answer.kind === "readings")
    return triedDevice(source, { ...answer, leftOut: new Map(answer.leftOut) }, answer.tookMs, limits);
  if (answer.kind === "page")
    return triedPage(source, Buffer.from(answer.bytes, "base64"), answer.dialect, limits, answer.tookMs);
  throw new Error(`a relay answered a try with ${answer.kind}`);
}
