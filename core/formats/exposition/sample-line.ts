import { TextError } from "../../pages/text-error.ts";

/** The part of a line before its value. */
export interface LineHead {
  readonly name: string;
  /** In the order of the page. */
  readonly labels: readonly (readonly [label: string, value: string])[];
  /** Characters up to where the value begins. */
  readonly length: number;
}

const nameAt = /[a-zA-Z_:][a-zA-Z0-9_:]*/y;
const labelAt = /[a-zA-Z_][a-zA-Z0-9_]*/y;

/**
 * Reads `name{label="value",...} ` at the beginning of a line. `strict` wants the one space and the order of characters
 * that OpenMetrics
 * prescribes; else blanks may stand between the parts, as in the older text format. Throws TextError.
 */
export function readLineHead(text: string, line: number, strict: boolean): LineHead {
  let at = strict ? 0 : blanks(text, 0);
  const fail = (message: string) => new TextError(message, line, at + 1);
  const skip = () => {
    if (!strict) at = blanks(text, at);
  };
  const name = match(nameAt, text, at);
  if (name === undefined)
    throw fail(
      text[at] === "{"
        ? "a sample begins with a name"
        : `a sample begins with a name, not with ${JSON.stringify(text.slice(at, at + 12))}`,
    );
  at += name.length;
  const apart = isBlank(text[at]);
  skip();
  const labels: (readonly [string, string])[] = [];
  const names = new Set<string>();
  if (text[at] === "{") {
    at++;
    skip();
    while (text[at] !== "}") {
      if (at >= text.length) throw fail("the labels have no closing brace");
      const label = match(labelAt, text, at);
      if (label === undefined) throw fail(`${JSON.stringify(text.slice(at, at + 20))} is not a label`);
      if (names.has(label)) throw fail(`the label ${label} stands there twice`);
      names.add(label);
      at += label.length;
      skip();
      if (text[at] !== "=") throw fail(`= is missing after the label ${label}`);
      at++;
      skip();
      const end = closingQuote(text, at);
      if (end === undefined) throw fail(`the value of the label ${label} is not in quotes`);
      labels.push([label, unescaped(text.slice(at + 1, end))]);
      at = end + 1;
      skip();
      if (text[at] === ",") {
        at++;
        skip();
        if (strict && text[at] === "}") throw fail("a label is missing after the comma");
      } else if (text[at] !== "}")
        throw fail(at >= text.length ? "the labels have no closing brace" : ", or } is missing after a label");
    }
    at++;
  }
  const braces = text[at - 1] === "}";
  if (at >= text.length && !(apart && !braces)) throw fail("the value is missing");
  if (strict && text[at] !== " ") throw fail("a space is missing before the value");
  if (!strict && !braces && !apart) throw fail("a blank is missing before the value");
  at = strict ? at + 1 : blanks(text, at);
  return { name, labels, length: at };
}

/** Where the quoted text that begins at `at` ends; undefined where none begins or it has no end. */
function closingQuote(text: string, at: number): number | undefined {
  if (text[at] !== '"') return undefined;
  for (let i = at + 1; i < text.length; i++) {
    if (text[i] === "\\") i++;
    else if (text[i] === '"') return i;
  }
  return undefined;
}

/** Takes escapes out: \n, \\ and \"; before any other character the backslash stands for itself. */
export function unescaped(text: string): string {
  return text.includes("\\") ? text.replace(/\\([n\\"])/g, (_, c: string) => (c === "n" ? "\n" : c)) : text;
}

function match(pattern: RegExp, text: string, at: number): string | undefined {
  pattern.lastIndex = at;
  return pattern.exec(text)?.[0];
}

const isBlank = (c: string | undefined) => c === " " || c === "\t";

function blanks(text: string, from: number): number {
  let at = from;
  while (isBlank(text[at])) at++;
  return at;
}
