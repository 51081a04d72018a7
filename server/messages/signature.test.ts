import { createHash, createHmac } from "node:crypto";
import { readFileSync } from "node:fs";
import { describe, expect, test } from "vitest";
import { signatureOf } from "./signature.ts";

describe("HMAC-SHA-256: RFC 4231 section 4, test cases 1, 2, 3, 6", () => {
  const hex = (text: string) => Buffer.from(text, "hex");
  test.each([
    ["0b".repeat(20), Buffer.from("Hi There"), "b0344c61d8db38535ca8afceaf0bf12b881dc200c9833da726e9376c2e32cff7"],
    [
      Buffer.from("Jefe").toString("hex"),
      Buffer.from("what do ya want for nothing?"),
      "5bdcc146bf60754e6a042426089575c75a003f089d2739839dec58b964ec3843",
    ],
    ["aa".repeat(20), hex("dd".repeat(50)), "773ea91e36800e46854db8ebd09181a72959098b3ef8c122d9635514ced565fe"],
    [
      "aa".repeat(131),
      Buffer.from("Test Using Larger Than Block-Size Key - Hash Key First"),
      "60e431591ee0b67f0d8a26aacbf5b77f8e0bc6213728c5140546040f0ee37f54",
    ],
  ])("key %s", (key, data, digest) => expect(createHmac("sha256", hex(key)).update(data).digest("hex")).toBe(digest));
});

test("a signature is of the time stamp, a dot and the body; a receiver works it out by RFC 2104 alone", () => {
  const secret = "kestrel";
  const body = '{"a":"ü"}';
  // H(K xor opad, H(K xor ipad, text)), RFC 2104 section 2, written out.
  const key = Buffer.alloc(64);
  key.write(secret);
  const pad = (byte: number) => Buffer.from(key.map((one) => one ^ byte));
  const hash = (...parts: Buffer[]) => createHash("sha256").update(Buffer.concat(parts)).digest();
  const expected = hash(pad(0x5c), hash(pad(0x36), Buffer.from(`1800000000.${body}`))).toString("hex");
  expect(signatureOf(secret, 1_800_000_000, body)).toBe(`v1=${expected}`);
  expect(signatureOf(secret, 1_800_000_001, body)).not.toBe(`v1=${expected}`);
});

test("the example that receivers are given is signed as it says", () => {
  const page = readFileSync(new URL("../../docs/webhook.md", import.meta.url), "utf8");
  const said = (name: string) => page.match(new RegExp(`^${name} +(.+)$`, "m"))?.[1] ?? "";
  expect(said("signature")).toMatch(/^v1=[0-9a-f]{64}$/);
  expect(signatureOf(said("secret"), Number(said("timestamp")), said("body"))).toBe(said("signature"));
});
