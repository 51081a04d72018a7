import { TextError } from "../../pages/text-error.ts";

/** A record and the line that it began in, from 1. */
export interface CsvRow {
  readonly line: number;
  readonly fields: readonly string[];
}

/**
 * The records of a CSV text (RFC 4180 §2: fields in quotes may hold delimiters, line ends, and quotes written twice),
 * with any one character as
 * the delimiter. Empty lines are passed over; both kinds of line end are read. Throws TextError with line and column.
 */
export function* csvRows(text: string, delimiter = ","): Generator<CsvRow> {
  let at = text.charCodeAt(0) === 0xfeff ? 1 : 0; // a byte order mark, as sheets write it
  let line = 1;
  let lineStart = at;
  while (at < text.length) {
    const began = line;
    const fields: string[] = [];
    for (;;) {
      let field = "";
      if (text[at] === '"') {
        const opened = { line, column: at - lineStart + 1 };
        const parts: string[] = [];
        let feed = text.indexOf("\n", at);
        for (at++; ; ) {
          const end = text.indexOf('"', at);
          if (end < 0) throw new TextError("a field in quotes is not closed", opened.line, opened.column);
          for (; feed >= 0 && feed < end; feed = text.indexOf("\n", feed + 1)) {
            line++;
            lineStart = feed + 1;
          }
          const isDoubled = text[end + 1] === '"';
          parts.push(text.slice(at, isDoubled ? end + 1 : end));
          at = isDoubled ? end + 2 : end + 1;
          if (!isDoubled) break;
        }
        field = parts.join("");
        if (at < text.length && text[at] !== delimiter && text[at] !== "\n" && text[at] !== "\r")
          throw new TextError(
            `after a field in quotes ${JSON.stringify(delimiter)} or the end of the line should stand, not ${JSON.stringify(text[at])}`,
            line,
            at - lineStart + 1,
          );
      } else {
        const from = at;
        while (at < text.length && text[at] !== delimiter && text[at] !== "\n" && text[at] !== "\r") at++;
        field = text.slice(from, at);
      }
      fields.push(field);
      if (text[at] !== delimiter) break;
      at++;
    }
    if (text[at] === "\r" && text[at + 1] === "\n") at++;
    else if (text[at] === "\r")
      throw new TextError("a line ends in half: a carriage return without a line feed", line, at - lineStart + 1);
    at++;
    line++;
    lineStart = at;
    if (fields.length > 1 || fields[0] !== "") yield { line: began, fields };
  }
}
