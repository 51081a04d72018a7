import equal from "fast-deep-equal";
import type { Condition, ReadingDocument, Sentence } from "../reading/document.ts";
import { withoutIdle } from "../reading/idle.ts";
import type { Dashboard } from "./dashboard.ts";
import type { TileKind } from "./tile-kinds.ts";
import type { Picker } from "./pickers.ts";

type Asked = Omit<ReadingDocument, "window">;

/**
 * Whether what is asked stands on a dashboard, or on one tile of it: the same sentences and the same figure, at most
 * narrowed by pickers that concern the tile, to values that these may pick. Steps, points and the like may be others:
 * they show nothing more.
 */
export function isOnDashboard({ tiles, pickers = [] }: Dashboard, asked: Asked, onlyTile?: string): boolean {
  return tiles.some(
    ({ id, kind, reading, ignores = [] }) =>
      reading !== undefined &&
      (onlyTile === undefined || id === onlyTile) &&
      isWithin(
        askedBy(kind, reading),
        askedBy(kind, asked),
        pickers.filter((one) => !ignores.includes(one.id)),
      ),
  );
}

/** What a tile asks for its reading: without what says nothing yet, and of states the last one of each step. */
function askedBy(kind: TileKind, reading: Asked): Asked {
  const { sentences, ...rest } = withoutIdle(reading);
  const ofStates = ([name, one]: [string, Sentence]): [string, Sentence] => [name, { of_every: "last", ...one }];
  return {
    ...rest,
    sentences: kind === "states" ? Object.fromEntries(Object.entries(sentences).map(ofStates)) : sentences,
  };
}

function isWithin(own: Asked, asked: Asked, pickers: readonly Picker[]): boolean {
  const names = Object.keys(asked.sentences);
  return (
    asked.figure === own.figure &&
    (asked.beside === undefined || asked.beside === own.beside) &&
    (asked.usual !== true || own.usual === true) &&
    names.length === Object.keys(own.sentences).length &&
    names.every((name) => {
      const sentence = Object.hasOwn(own.sentences, name) ? own.sentences[name] : undefined;
      return sentence !== undefined && isNarrowed(sentence, asked.sentences[name] as Sentence, pickers);
    })
  );
}

function isNarrowed(
  { where: own = [], ...sentence }: Sentence,
  { where = [], ...asked }: Sentence,
  pickers: readonly Picker[],
): boolean {
  return (
    equal(asked, sentence) &&
    equal(where.slice(0, own.length), own) &&
    where.slice(own.length).every((condition) => isPick(condition, pickers))
  );
}

const isPick = ({ tag, is, ...other }: Condition, pickers: readonly Picker[]): boolean =>
  Object.keys(other).length === 0 &&
  is !== undefined &&
  pickers.some((picker) => picker.tag === tag && (!picker.values || is.every((one) => picker.values?.includes(one))));
