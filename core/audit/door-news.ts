import type { Deed } from "../api/audit.ts";
import type { DoorNews } from "../api/door-news.ts";
import { newPlace } from "./deed-words.ts";

type DoorDeed = Pick<Deed, "atMs" | "who" | "place" | "did" | "subject" | "outcome">;

/** Answered to a right password: nothing was tried wrongly. */
const asksMore = "refused: A code is wanted";
const waysIn: ReadonlySet<string> = new Set([
  "POST /session",
  "POST /session/passkey",
  "POST /session/proxy",
  "GET /session/issuer/back",
  "POST /me/proof",
  "POST /me/proof/passkey",
]);
const tokensMade: ReadonlySet<string> = new Set(["POST /tokens", "POST /me/tokens"]);

/** Of which kind a deed is; undefined where nobody is told of it. */
function doorNewsOf({ did, outcome }: Pick<DoorDeed, "did" | "outcome">): DoorNews | undefined {
  if (did === newPlace) return "places";
  if (outcome === "done") return tokensMade.has(did) ? "tokens" : undefined;
  return waysIn.has(did) && outcome !== asksMore ? "wrong" : undefined;
}

/** What happened at the door, a line for each thing; deeds are in the order of their time. */
export function doorNewsLines(deeds: readonly DoorDeed[], of: readonly DoorNews[]): readonly string[] {
  const lines = deeds.flatMap((deed) => {
    const kind = doorNewsOf(deed);
    return kind !== undefined && of.includes(kind) ? [lineOf(kind, deed)] : [];
  });
  return [...new Set(lines)];
}

function lineOf(kind: DoorNews, { who, place, subject, outcome }: DoorDeed): string {
  const from = place === "" ? "" : ` from ${place}`;
  if (kind === "wrong") return `Somebody did not get in as ${who}${from}: ${outcome.replace(/^refused: /, "")}.`;
  if (kind === "places") return `${who} signed in at a new place${from}: ${subject}.`;
  return `${who} made the token ${subject.replace(/^\d+ /, "")}${from}.`;
}
