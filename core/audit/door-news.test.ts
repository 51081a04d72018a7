import { expect, test } from "vitest";
import { newPlace } from "./deed-words.ts";
import { doorNewsLines } from "./door-news.ts";

const at = { atMs: 0, who: "Ines", place: "192.0.2.7", subject: "", outcome: "done" };
const wrong = { ...at, did: "POST /session", outcome: "refused: Name or password is wrong" };

test("wrong sign-ins, new places and tokens are told, each once; what is right is not, nor what asks for a code", () => {
  const deeds = [
    { ...at, did: "POST /session" },
    wrong,
    wrong,
    { ...wrong, place: "192.0.2.8" },
    { ...wrong, outcome: "refused: A code is wanted" },
    { ...at, did: newPlace, subject: "a browser on a phone" },
    { ...at, did: "POST /tokens", subject: "3 backup" },
    { ...at, did: "POST /tokens", outcome: "refused: Show again who you are" },
    { ...at, did: "GET /people", outcome: "refused: You may not do this" },
  ];
  expect(doorNewsLines(deeds, ["wrong", "places", "tokens"])).toEqual([
    "Somebody did not get in as Ines from 192.0.2.7: Name or password is wrong.",
    "Somebody did not get in as Ines from 192.0.2.8: Name or password is wrong.",
    "Ines signed in at a new place from 192.0.2.7: a browser on a phone.",
    "Ines made the token backup from 192.0.2.7.",
  ]);
  expect(doorNewsLines(deeds, ["tokens"])).toHaveLength(1);
  expect(doorNewsLines(deeds, [])).toEqual([]);
});
