import { describe, expect, test } from "vitest";
import { isWitnessed, namedRoutes } from "../api/who-may.ts";
import { changedParts } from "./changed-parts.ts";
import { deedWords, refusedWords } from "./deed-words.ts";
import { withoutSecrets } from "./without-secrets.ts";

describe("what a change left otherwise", () => {
  test.each([
    [
      { a: 1, b: 2 },
      { a: 1, b: 3 },
      { before: { b: 2 }, after: { b: 3 } },
    ],
    [{ a: 1 }, { a: 1, b: 3 }, { before: {}, after: { b: 3 } }],
    [{ a: 1, b: 2 }, { a: 1 }, { before: { b: 2 }, after: {} }],
    [{ a: { b: 1, c: 2 } }, { a: { b: 1, c: 3 } }, { before: { a: { c: 2 } }, after: { a: { c: 3 } } }],
    [{ a: [1, 2] }, { a: [1, 3] }, { before: { a: [1, 2] }, after: { a: [1, 3] } }],
    [null, { a: 1 }, { before: null, after: { a: 1 } }],
    [{ a: 1 }, null, { before: { a: 1 }, after: null }],
    [{ a: null }, { a: { b: 1 } }, { before: { a: null }, after: { a: { b: 1 } } }],
    [{ a: 1 }, { a: 1 }, { before: {}, after: {} }],
  ])("%j to %j", (before, after, parts) => expect(changedParts(before, after)).toEqual(parts));
});

describe("without secrets", () => {
  test("whatever holds one, at every depth, in lists too; what is empty or yes and no stays", () => {
    const told = JSON.stringify(
      withoutSecrets({
        password: "P1",
        now: "P2",
        next: "P3",
        secret: "P4",
        credentials: { community: "P5" },
        list: [{ token: "P6", privKey: "P7" }],
        webhook: { url: "https://quay.example/P8", headers: [{ value: "P9" }] },
        heartbeatUrl: "https://quay.example/P10",
        code: "P11",
        name: "lamp",
        hasPassword: true,
        apiKey: "",
      }),
    );
    expect(told).not.toMatch(/P\d/);
    expect(told).toContain('"name":"lamp"');
    expect(told).toContain('"hasPassword":true');
    expect(told).toContain('"apiKey":""');
  });
  test("what is deep without an end has one", () => {
    let deep: object = {};
    for (let i = 0; i < 5000; i++) deep = { deep };
    expect(JSON.stringify(withoutSecrets(deep)).length).toBeLessThan(500);
  });
});

describe("what was done, in words", () => {
  test.each([
    ["PUT /rules/:id", "changed a rule"],
    ["POST /rules/ready-made", "made ready-made a rule"],
    ["DELETE /dashboards/:id", "removed a dashboard"],
    ["POST /dashboards/:id/back", "put back a dashboard"],
    ["PUT /sources/:id/pause", "paused a source"],
    ["DELETE /sources/:id/pause", "let a source go on"],
    ["POST /incidents/:id/acknowledge", "acknowledged an incident"],
    ["POST /quiet-times", "made a quiet time"],
    ["PUT /tariffs", "changed tariffs"],
    ["DELETE /me/sessions/:id", "ended a session of theirs"],
    ["PATCH /people/:id", "changed a person"],
  ])("%s: %s", (did, words) => expect(deedWords(did)).toBe(words));

  test.each([
    ["POST /session", "would have signed in"],
    ["GET /audit/file", "would have taken who did what away as a file"],
    ["DELETE /people/invitations/:id", "would have withdrawn an invitation"],
    ["PUT /rules/:id", "would have changed a rule"],
    ["GET /people", "would have looked at a person"],
  ])("%s refused: %s", (did, words) => expect(refusedWords(did)).toBe(words));

  test("every route that is written down has words of its own kind", () => {
    for (const did of namedRoutes) {
      const [method, path] = did.split(" ") as ["GET", string];
      if (isWitnessed({ method, path })) expect(deedWords(did), did).toMatch(/^[a-z]+( [A-Za-z-]+)+$/);
    }
  });

  test("every change is written down, but for one's own taste and what is only tried", () => {
    const not = namedRoutes.filter((did) => {
      const [method, path] = did.split(" ") as ["GET", string];
      return method !== ("GET" as string) && !isWitnessed({ method, path });
    });
    expect(not.sort()).toEqual([
      "POST /differences",
      "POST /differences/watched",
      "POST /me/issuer/begin",
      "POST /me/passkeys/begin",
      "POST /me/proof/issuer/begin",
      "POST /me/proof/passkey/begin",
      "POST /planning/energy",
      "POST /planning/fit",
      "POST /readings",
      "POST /readings/several",
      "POST /recipients/preview",
      "POST /recordings/forecast",
      "POST /rules/rehearse",
      "POST /session/issuer/begin",
      "POST /session/passkey/begin",
      "POST /sources/:id/preview",
      "POST /sources/:id/table",
      "POST /sources/try",
      "POST /sources/walk",
      "PUT /dashboards/:id/star",
    ]);
  });
});
