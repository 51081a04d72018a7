/** The JSON that a tool printed; undefined for what is none: tools also print what went wrong. */
export function jsonOf(text: string): unknown {
  try {
    return JSON.parse(text);
  } catch {
    return undefined;
  }
}

/** The object at a name; empty where none stands there. */
export function objectIn(json: unknown, name: string): Readonly<Record<string, unknown>> {
  return objectOf(objectOf(json)[name]);
}

/** The objects of a list at a name; none where no list stands there. */
export function listIn(json: unknown, name: string): readonly Readonly<Record<string, unknown>>[] {
  const list = objectOf(json)[name];
  return Array.isArray(list)
    ? list.filter((one) => typeof one === "object" && one !== null && !Array.isArray(one))
    : [];
}

function objectOf(json: unknown): Readonly<Record<string, unknown>> {
  return typeof json === "object" && json !== null && !Array.isArray(json)
    ? (json as Readonly<Record<string, unknown>>)
    : {};
}
