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

/** What one signs in by was changed, on another page of theirs. */
export interface ChangeView {
  readonly id: number;
  /** What was done, in words that follow "you". */
  readonly words: string;
  readonly atMs: number;
}

export const listNewChanges = route("GET", "/me/changes")<Nothing, readonly ChangeView[]>();
/** It was them. */
export const knowChange = route("POST", "/me/changes/:id/known", 204)();
