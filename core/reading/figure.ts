import jsep from "jsep";
import type { Tags } from "../counters/counter.ts";
import type { TaggedValues } from "./combine.ts";

/** An arithmetic that cannot be read or worked out; `at` is the place in its text, 0-based, where one is known. */
export class FigureError extends Error {
  readonly at: number | undefined;
  constructor(message: string, at?: number) {
    super(message);
    this.name = "FigureError";
    this.at = at;
  }
}

export type Figure =
  | { readonly kind: "number"; readonly value: number }
  | { readonly kind: "name"; readonly name: string }
  | { readonly kind: "negate"; readonly of: Figure }
  | { readonly kind: "operation"; readonly operator: Operator; readonly left: Figure; readonly right: Figure }
  | { readonly kind: "call"; readonly name: keyof typeof functions; readonly of: readonly Figure[] };

type Operator = "+" | "-" | "*" | "/";
type Operand = number | readonly TaggedValues[];

const mostLines = 2000;
/** Longer arithmetic nobody has written by hand; it is taken apart by recursion. */
const mostSigns = 2000;
const functions = {
  min: { takes: 2, work: Math.min },
  max: { takes: 2, work: Math.max },
  abs: { takes: 1, work: Math.abs },
} as const;

// The parser knows much more than arithmetic; what is not listed in `figureFrom` is refused there.
for (const word of ["this", "true", "false", "null"]) jsep.removeLiteral(word);

/**
 * Reads arithmetic between sentences: numbers, names, `+ - * /`, brackets, `min(a, b)`, `max(a, b)`, `abs(a)`.
 * Throws FigureError, with the place, for anything else or a name that is not among `names`.
 */
export function parseFigure(text: string, names: readonly string[]): Figure {
  if (text.length > mostSigns)
    throw new FigureError(
      `This arithmetic has ${text.length.toLocaleString("en")} signs; ${mostSigns.toLocaleString("en")} are the most.`,
      mostSigns,
    );
  let tree: jsep.Expression;
  try {
    tree = jsep(text);
  } catch (error) {
    const { description, index } = error as { description?: string; index?: number };
    throw new FigureError(
      `"${text}" cannot be read at character ${(index ?? 0) + 1}: ${description ?? String(error)}`,
      index,
    );
  }
  return figureFrom(tree as jsep.CoreExpression, text, names);
}

function figureFrom(tree: jsep.CoreExpression, text: string, names: readonly string[]): Figure {
  const inner = (part: jsep.Expression) => figureFrom(part as jsep.CoreExpression, text, names);
  switch (tree.type) {
    case "Literal":
      if (typeof tree.value === "number") return { kind: "number", value: tree.value };
      break;
    case "Identifier": {
      if (names.includes(tree.name)) return { kind: "name", name: tree.name };
      const at = text.search(new RegExp(`(?<![\\w$])${tree.name.replaceAll("$", "\\$")}(?![\\w$])`));
      throw new FigureError(
        `"${tree.name}" at character ${at + 1} is not the name of a sentence; there are ${names.map((name) => `"${name}"`).join(", ")}`,
        at,
      );
    }
    case "UnaryExpression":
      if (tree.operator === "-") return { kind: "negate", of: inner(tree.argument) };
      if (tree.operator === "+") return inner(tree.argument);
      break;
    case "BinaryExpression":
      if (["+", "-", "*", "/"].includes(tree.operator)) {
        return {
          kind: "operation",
          operator: tree.operator as Operator,
          left: inner(tree.left),
          right: inner(tree.right),
        };
      }
      break;
    case "CallExpression": {
      const callee = tree.callee as jsep.CoreExpression;
      const name = callee.type === "Identifier" ? callee.name : "";
      if (!Object.hasOwn(functions, name)) break;
      const known = name as keyof typeof functions;
      if (tree.arguments.length !== functions[known].takes)
        throw new FigureError(`${name}() takes ${functions[known].takes} values, not ${tree.arguments.length}`);
      return { kind: "call", name: known, of: tree.arguments.map(inner) };
    }
  }
  throw new FigureError(
    `"${text}" has a part that is not arithmetic (${tree.type}); numbers, names of sentences, + - * /, brackets, min, max and abs are understood`,
  );
}

/**
 * Works a figure out over columns. Lines of two operands belong together when every tag that both have is equal; the
 * result has the tags
 * of both. A division by zero and a gap on either side give a gap. Lines that find no partner are told in `notes`.
 * Throws FigureError where more than
 * 2,000 lines would come of it.
 */
export function evaluateFigure(
  figure: Figure,
  sentences: Readonly<Record<string, readonly TaggedValues[]>>,
  count: number,
): { readonly lines: readonly TaggedValues[]; readonly notes: readonly string[] } {
  const alone = new Set<TaggedValues>();
  const work = (part: Figure): Operand => {
    switch (part.kind) {
      case "number":
        return part.value;
      case "name":
        return sentences[part.name] ?? [];
      case "negate":
        return apply(0, work(part.of), (a, b) => a - b, alone);
      case "operation":
        return apply(work(part.left), work(part.right), operations[part.operator], alone);
      case "call": {
        const [first, second] = part.of.map(work);
        return apply(first as Operand, second ?? 0, functions[part.name].work, alone);
      }
    }
  };
  const result = work(figure);
  if (typeof result === "number")
    return { lines: [{ tags: {}, values: new Float64Array(count).fill(result) }], notes: [] };
  return { lines: result, notes: withoutPartner(sentences, alone) };
}

/** How many lines without a partner are told by their tags. */
const mostNamed = 3;

function withoutPartner(
  sentences: Readonly<Record<string, readonly TaggedValues[]>>,
  alone: ReadonlySet<TaggedValues>,
): readonly string[] {
  return Object.entries(sentences).flatMap(([name, lines]) => {
    const lost = lines.filter((line) => alone.has(line));
    if (lost.length === 0) return [];
    const named = lost
      .slice(0, mostNamed)
      .map(
        ({ tags }) =>
          Object.entries(tags)
            .map(([tag, value]) => `${tag} ${value}`)
            .join(", ") || "no tags",
      )
      .join("; ");
    const more = lost.length > mostNamed ? ` and ${lost.length - mostNamed} more` : "";
    return [
      `${name}: ${lost.length === 1 ? "1 line has" : `${lost.length} lines have`} no partner in the arithmetic and ${lost.length === 1 ? "is" : "are"} left out (${named}${more}).`,
    ];
  });
}

const operations: Record<Operator, (a: number, b: number) => number> = {
  "+": (a, b) => a + b,
  "-": (a, b) => a - b,
  "*": (a, b) => a * b,
  "/": (a, b) => (b === 0 ? Number.NaN : a / b),
};

/** `alone` is told of lines that find no partner. */
function apply(
  left: Operand,
  right: Operand,
  work: (a: number, b: number) => number,
  alone: Set<TaggedValues>,
): Operand {
  if (typeof left === "number" && typeof right === "number") return work(left, right);
  if (typeof left === "number")
    return (right as readonly TaggedValues[]).map(({ tags, values, toldUntilMs = Number.POSITIVE_INFINITY }) => ({
      tags,
      toldUntilMs,
      values: values.map((v) => work(left, v)),
    }));
  if (typeof right === "number")
    return left.map(({ tags, values, toldUntilMs = Number.POSITIVE_INFINITY }) => ({
      tags,
      toldUntilMs,
      values: values.map((v) => work(v, right)),
    }));
  const result: TaggedValues[] = [];
  const met = new Set<TaggedValues>();
  for (const a of left) {
    for (const b of right) {
      if (!agree(a.tags, b.tags)) continue;
      met.add(a).add(b);
      if (result.length >= mostLines)
        throw new FigureError(
          `more than ${mostLines} lines would come of this: the sentences have too few tags in common`,
        );
      result.push({
        tags: { ...b.tags, ...a.tags },
        toldUntilMs: Math.min(a.toldUntilMs ?? Number.POSITIVE_INFINITY, b.toldUntilMs ?? Number.POSITIVE_INFINITY),
        values: a.values.map((v, i) => work(v, b.values[i])),
      });
    }
  }
  for (const line of [...left, ...right]) if (!met.has(line)) alone.add(line);
  return result;
}

function agree(a: Tags, b: Tags): boolean {
  for (const tag in a) if (b[tag] !== undefined && b[tag] !== a[tag]) return false;
  return true;
}
