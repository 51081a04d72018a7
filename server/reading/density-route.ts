import type { Router } from "express";
import Joi from "joi";
import { getDensity } from "../../core/api/readings.ts";
import { serve } from "../http/serve.ts";
import { slotMs, slotStart } from "../store/slots.ts";
import type { Store } from "../store/store.ts";
import { windowSchema } from "./reading-schema.ts";

const densitySchema = (windowSchema as Joi.ObjectSchema).keys({
  parts: Joi.number().integer().min(1).max(2000).default(400),
}) as Joi.ObjectSchema<{ from: number; to: number; parts: number }>;

/** How densely a window was gathered. */
export function serveDensity(router: Router, store: Store): void {
  serve(router, getDensity, { query: densitySchema }, async ({ query: { from, to, parts } }) => {
    const stepMs = (to - from) / parts;
    const counts = new Array<number>(parts).fill(0);
    const add = (atMs: number, n: number) => {
      const part = Math.floor((atMs - from) / stepMs);
      if (part >= 0 && part < parts) counts[part] = (counts[part] as number) + n;
    };
    if (stepMs >= slotMs) {
      for (const [slot, n] of await store.samplesPerSlot(from, to)) add(slotStart(slot), n);
    } else {
      const minutes = await store.samplesPerMinute(from, to);
      if (stepMs >= 60_000) for (const [minute, n] of minutes) add(minute * 60_000, n);
      else
        for (let part = 0; part < parts; part++)
          counts[part] = minutes.get(Math.floor((from + (part + 0.5) * stepMs) / 60_000)) ?? 0;
    }
    return { from, stepMs, counts };
  });
}
