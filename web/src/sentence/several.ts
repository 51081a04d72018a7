import type { Sentence } from "../../../core/reading/document.ts";
import type { OpenReading } from "./reading-address.ts";

/** What a sentence may be called: what arithmetic can speak of. */
export const namePattern = /^[A-Za-z_][A-Za-z0-9_]{0,60}$/;

/** With one more sentence, at first like the one given. */
export function withSentence(reading: OpenReading, like: string, sentence: Sentence): OpenReading {
  const names = Object.keys(reading.sentences);
  const fresh =
    [..."abcdefghijklmnopqrstuvwxyz"].find((letter) => !names.includes(letter) && letter !== like) ??
    `s${names.length}`;
  return { ...reading, sentences: { ...reading.sentences, [fresh]: { ...sentence } } };
}

/** Without a sentence; arithmetic that speaks of it goes too, as it could not be worked out. */
export function withoutSentence(reading: OpenReading, name: string): OpenReading {
  const { [name]: _, ...sentences } = reading.sentences;
  const { figure, unit, ...rest } = reading;
  const speaks = figure !== undefined && wordOf(name).test(figure);
  return {
    ...rest,
    sentences,
    ...(figure !== undefined && !speaks && { figure }),
    ...(unit !== undefined && !speaks && { unit }),
  };
}

/** A sentence under another name, also where arithmetic speaks of it. The order stays. */
export function renamed(reading: OpenReading, name: string, to: string): OpenReading {
  const sentences = Object.fromEntries(
    Object.entries(reading.sentences).map(([one, sentence]) => [one === name ? to : one, sentence]),
  );
  return {
    ...reading,
    sentences,
    ...(reading.figure !== undefined && { figure: reading.figure.replaceAll(wordOf(name), to) }),
  };
}

const wordOf = (name: string) => new RegExp(`(?<![\\w$])${name.replaceAll("$", "\\$")}(?![\\w$])`, "g");
