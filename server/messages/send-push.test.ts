import { createDecipheriv, createECDH, createPublicKey, type ECDH, hkdfSync, randomBytes, verify } from "node:crypto";
import { createServer, type IncomingHttpHeaders, type Server } from "node:http";
import type { AddressInfo } from "node:net";
import webPush from "web-push";
import { afterAll, beforeAll, beforeEach, describe, expect, test } from "vitest";
import { sendPush, subscriptionOf } from "./send-push.ts";

const keys = webPush.generateVAPIDKeys();
const bytes = (text: string) => Buffer.from(text, "base64url");

/** What a browser does with a message (RFC 8291 §3.4, RFC 8188 §2): one record, which is all that is sent so. */
function opened(body: Buffer, browser: ECDH, auth: Buffer): string {
  const salt = body.subarray(0, 16);
  const size = body[20] as number;
  const theirs = body.subarray(21, 21 + size);
  const secret = browser.computeSecret(theirs);
  const info = Buffer.concat([Buffer.from("WebPush: info\0"), browser.getPublicKey(), theirs]);
  const key = Buffer.from(hkdfSync("sha256", secret, auth, info, 32));
  const contentKey = Buffer.from(hkdfSync("sha256", key, salt, "Content-Encoding: aes128gcm\0", 16));
  const nonce = Buffer.from(hkdfSync("sha256", key, salt, "Content-Encoding: nonce\0", 12));
  const sealed = body.subarray(21 + size);
  const decipher = createDecipheriv("aes-128-gcm", contentKey, nonce).setAuthTag(sealed.subarray(-16));
  const padded = Buffer.concat([decipher.update(sealed.subarray(0, -16)), decipher.final()]);
  return padded.subarray(0, padded.lastIndexOf(2)).toString("utf8");
}

/** A push service that answers as it is told. */
let service: Server;
let answer = 201;
let got: { headers: IncomingHttpHeaders; body: Buffer; path: string | undefined }[] = [];
const browser = createECDH("prime256v1");
browser.generateKeys();
const auth = randomBytes(16);

beforeAll(async () => {
  service = createServer((request, response) => {
    const pieces: Buffer[] = [];
    request.on("data", (piece: Buffer) => pieces.push(piece));
    request.on("end", () => {
      got.push({ headers: request.headers, body: Buffer.concat(pieces), path: request.url });
      response.writeHead(answer).end(answer >= 400 ? "no" : "");
    });
  });
  await new Promise<void>((resolve) => service.listen(0, "127.0.0.1", resolve));
});
afterAll(() => service.close());
beforeEach(() => {
  answer = 201;
  got = [];
});

const origin = () => `http://127.0.0.1:${(service.address() as AddressInfo).port}`;
const subscription = () =>
  JSON.stringify({
    endpoint: `${origin()}/push/abc`,
    keys: { p256dh: browser.getPublicKey("base64url"), auth: auth.toString("base64url") },
  });
const push = (more: Partial<Parameters<typeof sendPush>[0]> = {}) =>
  sendPush({
    ...{ subscription: subscription(), keys, id: "m-1", subject: "vault: disk busy", text: "97 % for 10 min" },
    ...{ link: "https://nubrel.example/alerts/incidents/7", isUrgent: false },
    ...more,
  });

test("what opens a message here opens the one of RFC 8291, Appendix A", () => {
  const receiver = createECDH("prime256v1");
  receiver.setPrivateKey(bytes("q1dXpw3UpT5VOmu_cf_v6ih07Aems3njxI-JWgLcM94"));
  const body =
    "DGv6ra1nlYgDCS1FRnbzlwAAEABBBP4z9KsN6nGRTbVYI_c7VJSPQTBtkgcy27mlmlMoZIIgDll6e3vCYLocInmYWAmS6TlzAC8wEqKK6PBru3jl7A_yl95bQpu6cVPTpK4Mqgkf1CXztLVBSt2Ks3oZwbuwXPXLWyouBWLVWGNWQexSgSxsj_Qulcy4a-fN";
  expect(opened(bytes(body), receiver, bytes("BTBZMqHH6r4Tts7J_aSIgg"))).toBe(
    "When I grow up, I want to be a watermelon",
  );
});

describe("a message", () => {
  test("is sealed for the browser alone, and says what, where it goes on, and how much it hurries (RFC 8030 §5)", async () => {
    expect(await push({ isUrgent: true })).toEqual({ worked: true, answer: "HTTP 201" });
    const [{ headers, body, path }] = got as [(typeof got)[0]];
    expect(path).toBe("/push/abc");
    expect(headers).toMatchObject({ "content-encoding": "aes128gcm", urgency: "high", ttl: "14400" });
    expect(body.toString("latin1")).not.toContain("vault");
    expect(JSON.parse(opened(body, browser, auth))).toEqual({
      ...{ id: "m-1", title: "vault: disk busy", text: "97 % for 10 min" },
      link: "https://nubrel.example/alerts/incidents/7",
    });
  });
  test("shows who the server is by a token for this service alone, signed by the key it subscribed with (RFC 8292)", async () => {
    await push();
    const [scheme, token, key] = /^(\w+) t=([^,]+), ?k=(.+)$/.exec(got[0]?.headers.authorization ?? "")?.slice(1) ?? [];
    expect([scheme, key]).toEqual(["vapid", keys.publicKey]);
    const [head, claims, signature] = (token as string).split(".") as [string, string, string];
    const point = bytes(keys.publicKey);
    const publicKey = createPublicKey({
      format: "jwk",
      key: {
        kty: "EC",
        crv: "P-256",
        x: point.subarray(1, 33).toString("base64url"),
        y: point.subarray(33).toString("base64url"),
      },
    });
    const signed = Buffer.from(`${head}.${claims}`);
    expect(verify("sha256", signed, { key: publicKey, dsaEncoding: "ieee-p1363" }, bytes(signature))).toBe(true);
    const { aud, exp, sub } = JSON.parse(bytes(claims).toString()) as { aud: string; exp: number; sub: string };
    expect(aud).toBe(origin());
    expect(sub).toBe("https://nubrel.example");
    // §2: not more than 24 hours from when it is sent
    expect(exp - Date.now() / 1000).toBeGreaterThan(0);
    expect(exp - Date.now() / 1000).toBeLessThanOrEqual(86_400);
  });
  test("of a long text has its beginning, whole letters, within the 4096 bytes of RFC 8030 §7.2", async () => {
    await push({ text: "Zählerstände übertragen … ".repeat(400) });
    const [{ body }] = got as [(typeof got)[0]];
    expect(body.length).toBeLessThanOrEqual(4096);
    const { text } = JSON.parse(opened(body, browser, auth)) as { text: string };
    expect(text).toMatch(/^Zählerstände .* …$/);
    expect(text).not.toContain("\ufffd");
  });
  test.each([
    [201, true, undefined],
    [404, false, true],
    [410, false, true],
    [413, false, undefined],
    [429, false, undefined],
    [500, false, undefined],
  ])("answered with %d: worked %s, for good %s", async (status, worked, isFinal) => {
    answer = status;
    expect(await push()).toMatchObject({
      worked,
      ...(isFinal && { isFinal }),
      answer: expect.stringContaining(`HTTP ${status}`),
    });
  });
  test("to a service that nobody listens at is told in words", async () => {
    const away = JSON.stringify({ ...JSON.parse(subscription()), endpoint: "http://127.0.0.1:1/x" });
    expect(await push({ subscription: away })).toMatchObject({
      worked: false,
      answer: expect.stringContaining("listens"),
    });
  });
});

test.each([
  ["no JSON", "hello"],
  ["nothing", "{}"],
  ["an address of another kind", JSON.stringify({ endpoint: "ftp://x", keys: {} })],
  ["a short key", JSON.stringify({ endpoint: "https://x", keys: { p256dh: "abc", auth: "abc" } })],
])("%s is no subscription, and is told for good", async (_, text) => {
  expect(subscriptionOf(text)).toBeUndefined();
  expect(await push({ subscription: text })).toMatchObject({ worked: false, isFinal: true });
});
