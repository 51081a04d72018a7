import { type ShownValue, shownWords } from "./shown-figures.ts";

/** A live figure in a note: the value of a sentence's first line, or of the arithmetic where the name is "figure". */
export interface NoteFigure {
  readonly name: string;
  readonly shows: ShownValue;
  /** A share is told in per cent. */
  readonly isPercent: boolean;
}

const figure = /\{([A-Za-z_$][\w$]{0,60})(?:\s+(last|first|lowest|highest|mean|sum))?(\s*%)?\}/g;

/** A note's text in parts: what stands as it is, and live figures written as `{used}`, `{used highest}` or `{used %}`. */
export function noteParts(text: string): readonly (string | NoteFigure)[] {
  const parts: (string | NoteFigure)[] = [];
  let at = 0;
  for (const found of text.matchAll(figure)) {
    if (found.index > at) parts.push(text.slice(at, found.index));
    const shows = Object.entries(shownWords).find(([, words]) => words === found[2])?.[0] as ShownValue | undefined;
    parts.push({ name: found[1] as string, shows: shows ?? "last", isPercent: found[3] !== undefined });
    at = found.index + found[0].length;
  }
  if (at < text.length) parts.push(text.slice(at));
  return parts;
}
