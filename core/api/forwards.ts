import type { ForwardSettings, ForwardStanding } from "../forwarding/forward.ts";
import { type Nothing, route } from "./route.ts";

/** Something that is sent on, with how it stands. `sent` and `refused` count from the server's start. */
export interface ForwardView extends ForwardSettings, ForwardStanding {
  readonly id: number;
  /** How many series it is now. */
  readonly series: number;
}

/** Values of headers are given where they are new or changed; those that are kept may be left out. */
export type ForwardBody = ForwardSettings & { readonly values: Readonly<Record<string, string>> };

export const listForwards = route("GET", "/forwards")<Nothing, readonly ForwardView[]>();
export const makeForward = route("POST", "/forwards", 201)<ForwardBody, ForwardView>();
export const changeForward = route("PUT", "/forwards/:id")<ForwardBody, ForwardView>();
export const removeForward = route("DELETE", "/forwards/:id", 204)();
