import Joi from "joi";
import parse from "joi-to-json";

type Json = Record<string, unknown>;

/** The schema of a body or a query in JSON, as OpenAPI 3.1 has it (JSON Schema, draft 2020-12). */
export function schemaOf(schema: Joi.Schema): Json {
  const { schemas: _, ...plain } = parse(schema, "open-api-3.1") as Json;
  return withoutPatterns(withMaps(schema.describe(), plain)) as Json;
}

/** The same of those that stand where a body is described by conditions. */
function withoutPatterns(json: unknown): unknown {
  if (Array.isArray(json)) return json.map(withoutPatterns);
  if (typeof json !== "object" || json === null) return json;
  const { patternProperties, ...made } = Object.fromEntries(
    Object.entries(json).map(([name, one]) => [name, withoutPatterns(one)]),
  );
  if (patternProperties === undefined) return made;
  const [rule, ...others] = Object.values(patternProperties as Json);
  const named = Object.entries((made["properties"] ?? {}) as Json).filter(([name]) => !name.startsWith("/"));
  return {
    ...made,
    properties: Object.fromEntries(named),
    additionalProperties: others.length === 0 ? rule : { anyOf: [rule, ...others] },
  };
}

/**
 * Objects with names of anybody's choice become `additionalProperties`, which generators of clients know; what the
 * library makes of them, they do not.
 */
function withMaps(described: Joi.Description, json: Json): Json {
  const { keys, patterns, items, matches } = described as {
    readonly keys?: Readonly<Record<string, Joi.Description>>;
    readonly patterns?: readonly { readonly rule: Joi.Description; readonly regex?: string }[];
    readonly items?: readonly Joi.Description[];
    readonly matches?: readonly { readonly schema?: Joi.Description }[];
  };
  const made: Json = { ...json };
  if (made["properties"])
    made["properties"] = Object.fromEntries(
      Object.entries(made["properties"] as Readonly<Record<string, Json>>).flatMap(([name, one]) =>
        keys?.[name] ? [[name, withMaps(keys[name], one)]] : patterns ? [] : [[name, one]],
      ),
    );
  if (patterns) {
    delete made["patternProperties"];
    const rules = patterns.map(({ rule }) => schemaOf(Joi.build(rule)));
    made["additionalProperties"] = rules.length === 1 ? rules[0] : { anyOf: rules };
  }
  if (items?.length === 1 && items[0] && made["items"]) made["items"] = withMaps(items[0], made["items"] as Json);
  for (const one of ["anyOf", "oneOf"])
    if (Array.isArray(made[one]) && made[one].length === matches?.length)
      made[one] = (made[one] as Json[]).map((branch, i) => {
        const of = matches?.[i]?.schema;
        return of ? withMaps(of, branch) : branch;
      });
  return made;
}
