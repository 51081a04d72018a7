/** Names and values matched by a text with stars. */
export interface Glob {
  /** What the stars stood for; undefined where the text does not fit. */
  match(text: string): readonly string[] | undefined;
}

const globs = new Map<string, Glob>();
const mostGlobs = 2000;

/** A text with * for any characters, also none. It takes time in proportion to the length, whatever the stars. */
export function globOf(pattern: string): Glob {
  const known = globs.get(pattern);
  if (known) return known;
  const made = makeGlob(pattern.split("*"));
  if (globs.size >= mostGlobs) globs.clear();
  globs.set(pattern, made);
  return made;
}

/** Between stars each piece stands at its first place after the one before; the last piece stands at the end. */
function makeGlob(pieces: readonly string[]): Glob {
  const [first = "", ...rest] = pieces;
  const last = rest.pop();
  return {
    match(text) {
      if (last === undefined) return text === first ? [] : undefined;
      if (!text.startsWith(first) || !text.endsWith(last) || text.length < first.length + last.length) return undefined;
      const stars: string[] = [];
      let at = first.length;
      const end = text.length - last.length;
      for (const piece of rest) {
        const found = text.indexOf(piece, at);
        if (found < 0 || found + piece.length > end) return undefined;
        stars.push(text.slice(at, found));
        at = found + piece.length;
      }
      stars.push(text.slice(at, end));
      return stars;
    },
  };
}
