import type { SessionView } from "../../../core/api/people.ts";
import { knowChange, newChanges } from "./change-rows.ts";
import { deedWords } from "../../../core/audit/deed-words.ts";
import { type Request, Router } from "express";
import * as routes from "../../../core/api/places.ts";
import type { Database } from "../../db/pool.ts";
import { personOf } from "../../http/asker.ts";
import { Problem } from "../../http/problem.ts";
import { serve } from "../../http/serve.ts";
import type { Entrance } from "../entrance.ts";
import { closeSessions, listSessions } from "../session-rows.ts";
import { networkOf } from "../sign-in-limit.ts";
import { forgetPlace, knowPlace, newPlaces, type Place } from "./place-rows.ts";

interface PlacesParts {
  readonly database: Database;
  readonly entrance: Entrance;
  /** The time by which sessions end (clock/server-clock.ts). */
  readonly acting: () => number;
}

/** Where each person signed in for the first time, told to them wherever else they are. */
export function placesRouter({ database, entrance, acting }: PlacesParts): Router {
  const router = Router();
  const isAt =
    ({ device, network }: Place) =>
    (one: SessionView) =>
      one.device === device && networkOf(one.place) === network;
  /** New places but for where the one who asks is: whoever broke in there says nothing of it. */
  const elsewhere = async (request: Request) => {
    const { id, sessionId } = personOf(request);
    const all = await newPlaces(database, id);
    if (all.length === 0) return [];
    const here = (await listSessions(database, id, acting())).find((one) => one.id === sessionId);
    return all.filter((place) => !here || !isAt(place)(here));
  };
  const placeOf = async (request: Request, id: number) => {
    const place = (await elsewhere(request)).find((one) => one.id === id);
    if (!place) throw new Problem(404, "no-such-place", "It is not yours, is known already, or is where you are now.");
    return place;
  };

  serve(router, routes.listNewPlaces, {}, ({ request }) => elsewhere(request));

  serve(router, routes.knowPlace, {}, async ({ request, params: { id } }) => {
    await placeOf(request, id);
    await knowPlace(database, personOf(request).id, id);
  });

  serve(router, routes.disownPlace, {}, async ({ request, params: { id } }) => {
    const place = await placeOf(request, id);
    const { id: accountId } = personOf(request);
    for (const { id: only } of (await listSessions(database, accountId, acting())).filter(isAt(place)))
      entrance.ended(await closeSessions(database, accountId, { only }));
    await forgetPlace(database, accountId, id);
  });

  serve(router, routes.listNewChanges, {}, async ({ request }) => {
    const { id, sessionId } = personOf(request);
    const all = await newChanges(database, id, sessionId);
    return all.map(({ did, ...change }) => ({ ...change, words: deedWords(did) }));
  });

  serve(router, routes.knowChange, {}, async ({ request, params: { id: change } }) => {
    const { id, sessionId } = personOf(request);
    if (!(await knowChange(database, id, sessionId, change)))
      throw new Problem(404, "no-such-change", "It is not yours, is known already, or was made on this page.");
  });
  return router;
}
