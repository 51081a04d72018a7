import type { PageQuery } from "./page-query.ts";
import { type Nothing, route } from "./route.ts";
import type { WindowQuery } from "./window-query.ts";
import type { Tags } from "../counters/counter.ts";
import type { MachineEvent } from "../events/machine-event.ts";

/** What is noted: now where no time is said, a moment where there is a start alone. */
export interface EventBody {
  readonly fromMs?: number;
  readonly toMs?: number;
  readonly kind?: string;
  readonly machine?: string;
  readonly text: string;
  readonly tags?: Tags;
}

export const listEvents = route("GET", "/events")<
  Nothing,
  readonly MachineEvent[],
  WindowQuery & PageQuery & { readonly machine?: string }
>();
export const noteEvent = route("POST", "/events", 201)<EventBody, MachineEvent>();
export const removeEvent = route("DELETE", "/events/:id")<Nothing, MachineEvent>();
