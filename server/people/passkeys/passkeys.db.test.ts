import { afterAll, beforeAll, describe, expect, test } from "vitest";
import { HttpClient } from "../../testing/http-client.ts";
import { type OwnedServer, ownedServer } from "../../testing/owned-server.ts";
import { PasskeyDevice, type Told } from "../../testing/passkey-device.ts";
import { Challenges } from "./challenges.ts";

// The ways in which a passkey is not one (WebAuthn level 3, §7.1 and §7.2), each beside the right one.
const password = "kestrel on the quay";
let owned: OwnedServer;
/** By the server's name: a passkey is for one. */
let address: string;
let owner: HttpClient;
let phone: PasskeyDevice;

beforeAll(async () => {
  owned = await ownedServer();
  address = owned.server.address.replace("127.0.0.1", "localhost");
  owner = new HttpClient(address);
  await owner.ask("POST", "/api/session", { name: "Ines", password });
  phone = new PasskeyDevice(address);
});
afterAll(() => owned.close());

const options = async (of: HttpClient, path: string) => (await of.ask("POST", path)).body.options;
const add = async (of: HttpClient, device: PasskeyDevice, told: Told = {}) =>
  await of.ask("POST", "/api/me/passkeys", {
    ...{ name: "phone", response: device.made(await options(of, "/api/me/passkeys/begin"), told) },
  });
const enter = async (device: PasskeyDevice, told: Told = {}, of = new HttpClient(address)) =>
  await of.ask("POST", "/api/session/passkey", {
    response: device.shown(await options(of, "/api/session/passkey/begin"), told),
  });

describe("a passkey is added", () => {
  test.each<[string, Told]>([
    ["of another page", { origin: "https://quay.example" }],
    ["for another name", { host: "quay.example" }],
    ["with another challenge", { challenge: "AAAA" }],
    ["by a device that did not check who holds it", { flags: 0b0100_0001 }],
    ["that was shown, not made", { type: "webauthn.get" }],
  ])("not one %s", async (_, told) => {
    const { status, body } = await add(owner, new PasskeyDevice(address), told);
    expect([status, body.title]).toEqual([422, "Not this passkey"]);
  });

  test("once, and is listed; what is told of it names nobody and keeps nothing secret", async () => {
    const begun = await options(owner, "/api/me/passkeys/begin");
    expect(begun).toMatchObject({
      rp: { id: "localhost", name: "Nubrel" },
      user: { name: "Ines" },
      authenticatorSelection: { userVerification: "required", residentKey: "required" },
    });
    const response = phone.made(begun);
    const { status, body } = await owner.ask("POST", "/api/me/passkeys", { name: "phone", response });
    expect([status, body]).toEqual([201, expect.objectContaining({ name: "phone", host: "localhost" })]);
    expect((await owner.ask("POST", "/api/me/passkeys", { name: "phone", response })).status).toBe(422);
    expect((await add(owner, phone)).body.detail).toContain("is kept here already");
    expect((await owner.ask("GET", "/api/me/ways")).body).toMatchObject({ hasPassword: true, passkeys: 1 });
    expect((await options(owner, "/api/me/passkeys/begin")).excludeCredentials).toHaveLength(1);
  });

  test("not where the server is reached by an address, nor where it was lately shown by nobody who one is", async () => {
    const byAddress = await owned.owner.ask("POST", "/api/me/passkeys/begin");
    expect([byAddress.status, byAddress.body.detail]).toEqual([422, expect.stringContaining("need a name")]);
    await owned.db.database.query("update session set proven_at = now() - interval '11 minutes'");
    expect((await owner.ask("POST", "/api/me/passkeys/begin")).body.asks).toBe("proof");
    expect((await owner.ask("POST", "/api/me/proof", { password })).status).toBe(204);
  });
});

describe("a passkey opens", () => {
  test("the door, without password or code, and is told in who did what", async () => {
    const person = new HttpClient(address);
    const { status, body } = await enter(phone, {}, person);
    expect([status, body]).toEqual([200, { name: "Ines", role: "owner" }]);
    expect((await person.ask("GET", "/api/me")).body.name).toBe("Ines");
    const [deed] = (await owner.ask("GET", "/api/audit?most=1")).body;
    expect(deed).toMatchObject({ who: "Ines", knownBy: "person", words: "signed in with a passkey", after: null });
  });

  test.each<[string, Told]>([
    ["to another page", { origin: "https://quay.example" }],
    ["for another name", { host: "quay.example" }],
    ["with another challenge", { challenge: "AAAA" }],
    ["by a device that did not check who holds it", { flags: 0b0000_0001 }],
    ["by a copy, whose count is behind", { counter: 1 }],
    ["as if it were made", { type: "webauthn.create" }],
  ])("nothing, shown %s", async (_, told) => {
    expect((await enter(phone)).status).toBe(200); // and takes wrong tries off
    const { status, body } = await enter(phone, told);
    expect([status, body.title]).toEqual([401, "Not this passkey"]);
  });

  test("nothing twice, also of two at once; and nothing with a signature of another's", async () => {
    const person = new HttpClient(address);
    const begun = await options(person, "/api/session/passkey/begin");
    const response = phone.shown(begun, { counter: 0 });
    await owned.db.database.query("update passkey set counter = 0");
    const both = await Promise.all([1, 2].map(() => person.ask("POST", "/api/session/passkey", { response })));
    expect(both.map(({ status }) => status).sort()).toEqual([200, 401]);
    expect((await person.ask("POST", "/api/session/passkey", { response })).status).toBe(401);
    const forged = { ...new PasskeyDevice(address).shown(begun), id: phone.id, rawId: phone.id };
    expect((await person.ask("POST", "/api/session/passkey", { response: forged })).status).toBe(401);
  });

  test("no way in that was begun to show again who one is, and none of somebody else's", async () => {
    const response = phone.shown(await options(owner, "/api/me/proof/passkey/begin"));
    const person = new HttpClient(address);
    expect((await person.ask("POST", "/api/session/passkey", { response })).status).toBe(401);
    expect((await owner.ask("POST", "/api/me/proof/passkey", { response })).status).toBe(204);
    await owner.ask("POST", "/api/people", { name: "Tomas", password, role: "keeper" });
    const tomas = new HttpClient(address);
    await tomas.ask("POST", "/api/session", { name: "Tomas", password });
    const others = phone.shown(await options(tomas, "/api/me/proof/passkey/begin"));
    expect((await tomas.ask("POST", "/api/me/proof/passkey", { response: others })).body.detail).toContain("else's");
    expect((await tomas.ask("DELETE", "/api/me/passkeys/1")).status).toBe(404);
  });

  test.each([
    {},
    { response: { id: "a" } },
    { response: [] },
    { response: { id: 7, rawId: 7, type: 7, response: {} } },
  ])("nothing where %j was sent", async (body) => {
    expect((await new HttpClient(address).ask("POST", "/api/session/passkey", body)).status).toBe(422);
  });
});

describe("passkeys alone", () => {
  test("a password is given up where a passkey is left, and then opens nothing", async () => {
    const [{ id }] = (await owner.ask("GET", "/api/me/passkeys")).body;
    expect((await owner.ask("DELETE", "/api/me/password")).status).toBe(204);
    expect((await owner.ask("GET", "/api/me/ways")).body.hasPassword).toBe(false);
    for (const tried of [password, "", "null"])
      expect(
        (await new HttpClient(address).ask("POST", "/api/session", { name: "Ines", password: tried })).status,
      ).toBe(tried === "" ? 422 : 401);
    expect((await owner.ask("DELETE", `/api/me/passkeys/${id}`)).body.title).toBe("It is your last way in");
    expect((await enter(phone)).status).toBe(200);
  });

  test("and set again after showing the passkey; a person who leaves takes theirs along", async () => {
    const next = "heron over the lock";
    await owned.db.database.query("update session set proven_at = now() - interval '11 minutes'");
    expect((await owner.ask("PUT", "/api/me/password", { next })).body.asks).toBe("proof");
    const response = phone.shown(await options(owner, "/api/me/proof/passkey/begin"));
    await owner.ask("POST", "/api/me/proof/passkey", { response });
    expect((await owner.ask("PUT", "/api/me/password", { next })).status).toBe(204);
    expect((await new HttpClient(address).ask("POST", "/api/session", { name: "Ines", password: next })).status).toBe(
      200,
    );
    const tomas = new HttpClient(address);
    await tomas.ask("POST", "/api/session", { name: "Tomas", password });
    const stick = new PasskeyDevice(address);
    await add(tomas, stick);
    expect((await enter(stick)).body.name).toBe("Tomas");
    const { id } = (await owner.ask("GET", "/api/people")).body.find(({ name }: { name: string }) => name === "Tomas");
    await owner.ask("DELETE", `/api/people/${id}`);
    expect((await enter(stick)).body.title).toBe("Unknown passkey");
  });
});

test("a challenge is ours, for its purpose, once", () => {
  const challenges = new Challenges();
  const text = (bytes: Uint8Array) => Buffer.from(bytes).toString("base64url");
  const one = text(challenges.make("enter"));
  expect([challenges.isOpen("enter", one), challenges.isOpen("add 1", one)]).toEqual([true, false]);
  expect(new Challenges().isOpen("enter", one)).toBe(false);
  for (const broken of ["", "AAAA", one.slice(0, -1), `${one}A`, `${one[0] === "A" ? "B" : "A"}${one.slice(1)}`])
    expect(challenges.isOpen("enter", broken), broken).toBe(false);
  expect([challenges.take("enter", one), challenges.take("enter", one)]).toEqual([true, false]);
});
