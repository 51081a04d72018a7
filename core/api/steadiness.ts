import type { SteadyDay } from "../steadiness/steadiness.ts";
import { type Nothing, route } from "./route.ts";

/** How steady a machine was, a figure a day. */
export interface SteadinessView {
  readonly machine: string;
  readonly days: readonly SteadyDay[];
}

export const getSteadiness = route("GET", "/steadiness")<
  Nothing,
  readonly SteadinessView[],
  { readonly from: number; readonly to: number; readonly zone?: string }
>();
