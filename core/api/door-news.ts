import { type Nothing, route } from "./route.ts";

/** What happens at the door that somebody may want to be told of. */
export const doorNews = ["wrong", "places", "tokens"] as const;
export type DoorNews = (typeof doorNews)[number];

/** To whom what happens at the door is told; of nothing where there is no recipient. */
export interface DoorNewsSettings {
  readonly recipient: number | null;
  readonly of: readonly DoorNews[];
}

export interface DoorNewsView extends DoorNewsSettings {
  readonly lastSent: { readonly atMs: number; readonly worked: boolean; readonly answer: string } | null;
}

export const getDoorNews = route("GET", "/door-news")<Nothing, DoorNewsView>();
export const putDoorNews = route("PUT", "/door-news")<DoorNewsSettings, DoorNewsView>();
