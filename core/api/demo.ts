import { type Nothing, route } from "./route.ts";

/** Of a server with the sample world: who may sign in, and how much of its past is written, 0 to 1. */
export interface DemoView {
  readonly name: string;
  readonly password: string;
  readonly progress: number;
}

/** Null where this is no sample world. */
export const getDemo = route("GET", "/demo")<Nothing, DemoView | null>();
