import { setImmediate } from "node:timers/promises";
import answerSchemas from "../../core/api/answers.schema.json" with { type: "json" };
import { everyRoute } from "../../core/api/every-route.ts";
import { schemaOf } from "./schema-of.ts";
import type { Served } from "./served.ts";

type Json = Readonly<Record<string, unknown>>;

const problem = {
  type: "object",
  description: "Problem details (RFC 9457).",
  properties: {
    type: {
      type: "string",
      description: "Which kind of problem it is, by its last part; GET /api/problems lists them.",
    },
    title: { type: "string" },
    status: { type: "integer" },
    detail: { type: "string", description: "What happened and what to do, as a sentence for people." },
    errors: {
      type: "array",
      items: { type: "object", properties: { path: { type: "string" }, message: { type: "string" } } },
    },
    away: { type: "string" },
  },
  required: ["type", "title", "status", "detail"],
};

/**
 * A description of all routes as OpenAPI 3.1: bodies and queries by the schemas that check them, answers by the types
 * that they have. One route takes some milliseconds: others get their turn between.
 */
export async function openapiOf(served: readonly Served[], version: string, basePath = ""): Promise<Json> {
  const names = new Map([...everyRoute].map(([name, route]) => [route, name]));
  const paths: Record<string, Record<string, unknown>> = {};
  for (const one of served) {
    const { route } = one;
    const path = `/api${route.path.replace(/:(\w+)/g, "{$1}")}`;
    paths[path] ??= {};
    paths[path][route.method.toLowerCase()] = operation(one, names.get(route) ?? route.path);
    await setImmediate();
  }
  return {
    openapi: "3.1.0",
    info: {
      title: "Nubrel",
      version,
      description:
        "What Nubrel's own pages ask, and scripts may with a token. Times are milliseconds since 1970 in UTC, units are UCUM codes.",
    },
    servers: [{ url: basePath || "/" }],
    paths,
    components: {
      schemas: { ...(inComponents(answerSchemas.definitions) as Json), Problem: problem },
      securitySchemes: {
        token: { type: "http", scheme: "bearer" },
        session: { type: "apiKey", in: "cookie", name: "nubrel_session" },
      },
    },
    security: [{ token: [] }, { session: [] }],
  };
}

function operation({ route, body, query }: Served, name: string): Json {
  const answer = (answerSchemas.answers as Readonly<Record<string, Json>>)[name];
  const inPath = [...route.path.matchAll(/:(\w+)/g)].map(([, param]) => ({
    name: param,
    in: "path",
    required: true,
    schema: { type: param === "id" ? "integer" : "string" },
  }));
  return {
    operationId: name,
    tags: [route.path.split("/")[1]],
    parameters: [...inPath, ...(query ? inQuery(schemaOf(query)) : [])],
    ...(body && { requestBody: { content: { "application/json": { schema: schemaOf(body) } } } }),
    responses: {
      [route.status]: {
        description: "It worked.",
        ...(answer && { content: { "application/json": { schema: inComponents(answer) } } }),
      },
      default: {
        description: "It did not.",
        content: { "application/problem+json": { schema: { $ref: "#/components/schemas/Problem" } } },
      },
    },
  };
}

function inQuery({
  properties = {},
  required = [],
}: {
  readonly properties?: Readonly<Record<string, unknown>>;
  readonly required?: readonly string[];
}): readonly Json[] {
  return Object.entries(properties).map(([name, schema]) => ({
    name,
    in: "query",
    required: required.includes(name),
    schema,
  }));
}

/** What is defined stands among the components. */
function inComponents(schema: unknown): unknown {
  return JSON.parse(JSON.stringify(schema).replaceAll('"#/definitions/', '"#/components/schemas/'));
}
