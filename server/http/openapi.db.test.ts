import type { RunningServer } from "../running-server.ts";
import { Validator } from "@seriousme/openapi-schema-validator";
import pino from "pino";
import { afterAll, beforeAll, expect, test } from "vitest";
import { everyRoute } from "../../core/api/every-route.ts";
import { readConfig } from "../config.ts";
import { startServer } from "../compose.ts";
import { checkAnswer } from "../testing/answer-check.ts";
import { HttpClient } from "../testing/http-client.ts";
import { type TestDatabase, testDatabase } from "../testing/test-database.ts";

let db: TestDatabase;
let server: RunningServer;
// biome-ignore lint/suspicious/noExplicitAny: the test looks into the document freely
let document: any;

beforeAll(async () => {
  db = await testDatabase({ migrated: false });
  server = await startServer(readConfig({ NUBREL_DATABASE_URL: db.url, NUBREL_PORT: "0", NUBREL_MACHINE: "playout" }), {
    log: pino({ level: "silent" }),
  });
  const owner = new HttpClient(server.address);
  await owner.ask("POST", "/api/setup", { code: server.setupCode, name: "Ines", password: "kestrel on the quay" });
  document = (await owner.ask("GET", "/api/openapi.json")).body;
});
afterAll(async () => {
  await server.close();
  await db.drop();
});

test("the description is OpenAPI 3.1, by that standard's own schema", async () => {
  const validator = new Validator();
  const { valid, errors } = await validator.validate(structuredClone(document));
  expect(errors ?? []).toEqual([]);
  expect(valid).toBe(true);
  expect(validator.version).toBe("3.1");
});

test("every route stands in it, under its name, and nothing else", () => {
  const described = Object.entries(document.paths as Record<string, Record<string, { operationId: string }>>).flatMap(
    ([path, methods]) =>
      Object.entries(methods).map(([method, { operationId }]) => `${operationId}: ${method.toUpperCase()} ${path}`),
  );
  expect(described.sort()).toEqual(
    [...everyRoute]
      .map(([name, { method, path }]) => `${name}: ${method} /api${path.replace(/:(\w+)/g, "{$1}")}`)
      .sort(),
  );
});

test("what a body must have is told as the server checks it", () => {
  const { schema } = document.paths["/api/tokens"].post.requestBody.content["application/json"];
  expect(schema).toMatchObject({
    type: "object",
    required: expect.arrayContaining(["name", "scope"]),
    properties: { scope: { enum: ["write", "read", "manage", "calendar", "feed"] } },
  });
  expect(
    document.paths["/api/events"].get.parameters.map(({ name, required }: { name: string; required: boolean }) => [
      name,
      required,
    ]),
  ).toEqual([
    ["from", true],
    ["to", true],
    ["machine", false],
    ["most", false],
    ["before", false],
  ]);
});

// JSON Schema 2020-12, 10.3.2.3: what names of anybody's choice hold. Generators of clients know that alone.
test("objects with names of anybody's choice say what these hold", () => {
  const bodyOf = (path: string, method = "post") =>
    document.paths[path][method].requestBody.content["application/json"].schema;
  const { sentences } = bodyOf("/api/readings").properties;
  expect(sentences.additionalProperties).toMatchObject({ type: "object", required: ["counter"] });
  expect(sentences.properties ?? {}).toEqual({});
  expect(bodyOf("/api/planning/settings", "put").properties.speeds.additionalProperties.type).toBe("number");
  expect(JSON.stringify(document)).not.toContain("patternProperties");
});

test("an answer of another form than its type is found out", () => {
  const right = { needed: true, issuer: null, byProxy: false };
  expect(() => checkAnswer("GET", "/api/setup", 200, right)).not.toThrow();
  expect(() => checkAnswer("GET", "/api/setup", 200, { ...right, needed: "yes" })).toThrow(/must be boolean/);
  expect(() => checkAnswer("GET", "/api/setup", 200, { ...right, more: 1 })).toThrow(/additional properties/);
  expect(() => checkAnswer("DELETE", "/api/machines/lamp", 201, { sources: [] })).toThrow(
    /answered 201; its route says 200/,
  );
});
