/**
 * The form of a document: JSON Schema (draft 2020-12) in the words of it that we use, and five of our own. What checks
 * a document, what is published of it, which of its fields are known and what is said of a change are all read from it.
 */
export interface Form {
  readonly type?: "object" | "array" | "string" | "integer" | "number" | "boolean" | "null";
  readonly title?: string;
  readonly description?: string;
  readonly const?: string | number | boolean;
  readonly enum?: readonly string[];
  readonly minimum?: number;
  readonly maximum?: number;
  readonly minLength?: number;
  readonly maxLength?: number;
  readonly pattern?: string;
  readonly items?: Form;
  readonly minItems?: number;
  readonly maxItems?: number;
  readonly properties?: Readonly<Record<string, Form>>;
  readonly required?: readonly string[];
  /** Of an object whose names are free: their pattern, and what each holds. */
  readonly propertyNames?: { readonly pattern: string };
  readonly additionalProperties?: Form;
  readonly minProperties?: number;
  readonly maxProperties?: number;
  /** One of several forms; or, of an object with properties, at least one of these must be there. */
  readonly anyOf?: readonly Form[];
  /** Of an object with properties: exactly one of these must be there. */
  readonly oneOf?: readonly { readonly required: readonly string[] }[];
  readonly if?: Form;
  readonly then?: Form;
  readonly else?: Form;
  readonly not?: Form;
  /** Ours: what a value that does not fit must be: "must be a span such as 7d". */
  readonly said?: string;
  /** Ours: blanks around a text are taken off. */
  readonly trim?: true;
  /** Ours: the name of the field by which members of a list differ, and what they are. */
  readonly differBy?: readonly [field: string, what: string];
  /** Ours: what is said where this part of a document has changed: "its sentences". */
  readonly words?: string;
  /** Ours: a text that names a time zone of the platform. */
  readonly zone?: true;
}

const ownWords = new Set<string>(["said", "trim", "differBy", "words", "zone"] satisfies (keyof Form)[]);

/** The form as others read it: plain JSON Schema. */
export function published(form: Form): unknown {
  return JSON.parse(
    JSON.stringify(form, (key, value) => {
      return ownWords.has(key) ? undefined : value;
    }),
  );
}

/**
 * Where a document has fields that its form does not know, at every depth: "tiles[2].glow". Fields of a newer version,
 * or of somebody's own.
 */
export function unknownFields(form: Form, document: unknown): readonly string[] {
  const found: string[] = [];
  walk(form, document, "", (at) => {
    found.push(at);
    return true;
  });
  return found;
}

/** The document with what its form knows, and nothing else. */
export function withoutUnknown<T>(form: Form, document: T): T {
  return walk(form, document, "", () => false) as T;
}

/** A copy of a value; a field that the form does not know stays where `keeps` says so. */
function walk(form: Form, value: unknown, at: string, keeps: (at: string) => boolean): unknown {
  const fitting = form.anyOf?.find((one) => one.type !== undefined && one.type === kindOf(value)) ?? form;
  if (Array.isArray(value))
    return fitting.items ? value.map((one, i) => walk(fitting.items as Form, one, `${at}[${i}]`, keeps)) : value;
  if (kindOf(value) !== "object" || (!fitting.properties && !fitting.additionalProperties)) return value;
  return Object.fromEntries(
    Object.entries(value as object).flatMap(([name, one]): [string, unknown][] => {
      const where = at === "" ? name : `${at}.${name}`;
      const known = ownOf(fitting.properties, name) ?? fitting.additionalProperties;
      if (known) return [[name, walk(known, one, where, keeps)]];
      return keeps(where) ? [[name, one]] : [];
    }),
  );
}

const ownOf = (properties: Form["properties"], name: string): Form | undefined =>
  properties && Object.hasOwn(properties, name) ? properties[name] : undefined;

const kindOf = (value: unknown): string => (value === null ? "null" : Array.isArray(value) ? "array" : typeof value);
