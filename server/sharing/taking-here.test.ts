import type { Request, Response } from "express";
import pino from "pino";
import { expect, test } from "vitest";
import { TakingHere } from "./taking-here.ts";

// What is left to the server that leads without being read: nothing here may be asked for it.
const nothing = new Proxy({}, { get: (_, name) => expect.fail(`${String(name)} was asked for`) });

async function isLeft(request: object, failure?: Error): Promise<boolean> {
  const taking = new TakingHere({
    ...{ database: nothing as never, sources: nothing as never, accounts: nothing as never },
    store: { health: { failure } } as never,
    log: pino({ level: "silent" }),
  });
  let left = false;
  await taking.handler(request as Request, nothing as Response, () => {
    left = true;
  });
  return left;
}
const page = { method: "POST", path: "/api/push/openmetrics", headers: { "content-length": "9" } };

test.each([
  ["another path", { ...page, path: "/api/push/csv" }],
  ["another method", { ...page, method: "GET" }],
  ["of unknown length", { ...page, headers: {} }],
  ["without anything", { ...page, headers: { "content-length": "0" } }],
  ["longer than 8 MiB", { ...page, headers: { "content-length": "8388609" } }],
])("%s is left", async (_, request) => expect(await isLeft(request)).toBe(true));

test("a page is left while nothing can be stored from here, and else it is read", async () => {
  expect(await isLeft(page, new Error("the database is away"))).toBe(true);
  await expect(isLeft(page)).rejects.toThrow(); // as this one has no body
});
