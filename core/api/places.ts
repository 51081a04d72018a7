import { type Nothing, route } from "./route.ts";

/** Where somebody signed in for the first time. */
export interface PlaceView {
  readonly id: number;
  /** The browser, in words. */
  readonly device: string;
  /** An address, or a network of IPv6. */
  readonly network: string;
  readonly atMs: number;
}

/** What is new of the one who asks; not the place that they ask from. */
export const listNewPlaces = route("GET", "/me/places")<Nothing, readonly PlaceView[]>();
/** It was them. */
export const knowPlace = route("POST", "/me/places/:id/known", 204)();
/** It was somebody else: sign-ins there end. */
export const disownPlace = route("DELETE", "/me/places/:id", 204)();
