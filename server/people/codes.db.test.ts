import { execFileSync } from "node:child_process";
import { existsSync } from "node:fs";
import { TOTP } from "otpauth";
import { afterAll, beforeAll, describe, expect, test } from "vitest";
import { HttpClient } from "../testing/http-client.ts";
import { type OwnedServer, ownedServer } from "../testing/owned-server.ts";
import { SecretBox } from "../sources/secret-box.ts";
import { createOwner } from "./account-rows.ts";
import { TimeCodes } from "./time-codes.ts";
import { testDatabase } from "../testing/test-database.ts";

const oathtool = "/usr/bin/oathtool";
const password = "kestrel on the quay";

describe("codes (RFC 6238)", () => {
  test("are those of the standard's appendix B, taken once, a step aside at the most", async () => {
    // The secret of appendix B is "12345678901234567890"; its codes have eight digits, of which the last six are ours.
    const db = await testDatabase();
    try {
      const owner = await createOwner(db.database, "Ines", "-");
      const id = owner?.id as number;
      const box = SecretBox.open(undefined);
      let nowMs = 59_000;
      const codes = new TimeCodes({ database: db.database, box, acting: () => nowMs });
      const sealed = box.seal("GEZDGNBVGY3TQOJQGEZDGNBVGY3TQOJQ").toString("base64");
      await db.database.query("update account set code_secret = $1", [sealed]);
      for (const [seconds, code] of [
        [59, "287082"],
        [1_111_111_109, "081804"],
        [1_111_111_111, "050471"],
        [1_234_567_890, "005924"],
        [2_000_000_000, "279037"],
      ] as const) {
        nowMs = seconds * 1000;
        expect(await codes.take(id, code), `${seconds}`).toBe(true);
        expect(await codes.take(id, code), `${seconds} again`).toBe(false);
      }
      nowMs = 20_000_000_000_000;
      const at = (ms: number) =>
        new TOTP({ secret: "GEZDGNBVGY3TQOJQGEZDGNBVGY3TQOJQ", period: 30, digits: 6 }).generate({ timestamp: ms });
      expect(await codes.take(id, at(nowMs - 61_000))).toBe(false);
      expect(await codes.take(id, at(nowMs + 61_000))).toBe(false);
      expect(await codes.take(id, at(nowMs - 30_000))).toBe(true);
      expect(await codes.take(id, at(nowMs))).toBe(true);
      // of two at the same moment, one gets in
      nowMs += 60_000;
      const both = await Promise.all([codes.take(id, at(nowMs)), codes.take(id, at(nowMs))]);
      expect(both.sort()).toEqual([false, true]);
    } finally {
      await db.drop();
    }
  });
});

describe.skipIf(!existsSync(oathtool))("a second factor", () => {
  let owned: OwnedServer;
  let owner: HttpClient;
  let recovery: readonly string[] = [];
  let secret = "";
  /** The code of now, by Debian's oathtool. */
  const codeAt = () => execFileSync(oathtool, ["--totp", "-b", secret], { encoding: "utf8" }).trim();
  const signIn = (code?: string) =>
    new HttpClient(owned.server.address).ask("POST", "/api/session", {
      ...{ name: "Ines", password },
      ...(code !== undefined && { code }),
    });
  /** As if no code had been taken and nothing tried. */
  const fresh = () => owned.db.database.query("update account set code_step = 0");

  beforeAll(async () => {
    owned = await ownedServer();
    ({ owner } = owned);
  });
  afterAll(() => owned.close());

  test("holds once a code of it was shown, and tells codes for recovery", async () => {
    const { body: begun } = await owner.ask("POST", "/api/me/codes/begin");
    ({ secret } = begun);
    expect(begun.uri).toMatch(
      /^otpauth:\/\/totp\/Nubrel:Ines\?issuer=Nubrel&secret=[A-Z2-7]{32}&algorithm=SHA1&digits=6&period=30$/,
    );
    expect((await signIn()).status).toBe(200);
    const wrong = await owner.ask("POST", "/api/me/codes", { code: "000000" });
    expect([wrong.status, wrong.body.errors[0].path]).toEqual([422, "code"]);
    ({ recovery } = (await owner.ask("POST", "/api/me/codes", { code: codeAt() })).body);
    expect(new Set(recovery).size).toBe(10);
    expect((await owner.ask("GET", "/api/me/codes")).body).toEqual({ isOn: true, recoveryLeft: 10 });
    const { rows } = await owned.db.database.query(
      "select account::text as a from account union all select audit::text from audit",
    );
    for (const one of [secret, ...recovery]) expect(JSON.stringify(rows)).not.toContain(one);
  });

  test("the password alone does not get in; a code does, once", async () => {
    const asked = await signIn();
    expect([asked.status, asked.body.asks]).toEqual([401, "code"]);
    await fresh();
    const code = codeAt();
    expect((await signIn(code)).status).toBe(200);
    expect((await signIn(code)).body.errors[0].path).toBe("code");
    expect((await signIn("12 34")).status).toBe(401);
  });

  test("one for recovery gets in once, however it is written", async () => {
    expect((await signIn(` ${recovery[0]?.toUpperCase()} `)).status).toBe(200);
    expect((await signIn(recovery[0])).status).toBe(401);
    expect((await owner.ask("GET", "/api/me/codes")).body.recoveryLeft).toBe(9);
  });

  test("given up, the password is enough", async () => {
    expect((await owner.ask("DELETE", "/api/me/codes")).status).toBe(204);
    expect((await signIn()).status).toBe(200);
  });
});
