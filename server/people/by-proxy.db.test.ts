import { afterAll, beforeAll, describe, expect, test } from "vitest";
import { ConfigError, readConfig } from "../config.ts";
import { HttpClient } from "../testing/http-client.ts";
import { type OwnedServer, ownedServer } from "../testing/owned-server.ts";

const password = "kestrel on the quay";
const header = { NUBREL_SIGN_IN_HEADER: "Remote-User" };

describe("a proxy says who comes", () => {
  let owned: OwnedServer;
  const ask = (client: HttpClient, method: string, path: string, name?: string) =>
    client.ask(method, path, undefined, { ...(name !== undefined && { "Remote-User": name }) });

  beforeAll(async () => {
    owned = await ownedServer({ ...header, NUBREL_PROXIES: "127.0.0.1" });
    await owned.owner.ask("POST", "/api/people", { name: "Zoë", password, role: "viewer" });
  });
  afterAll(() => owned.close());

  test("and they are in, as whom it says, also where the name is not ASCII", async () => {
    const person = new HttpClient(owned.server.address);
    const name = Buffer.from("Zoë").toString("latin1");
    expect((await ask(person, "GET", "/api/setup", name)).body.byProxy).toBe(true);
    expect((await ask(person, "POST", "/api/session/proxy", name)).body).toEqual({ name: "Zoë", role: "viewer" });
    expect((await ask(person, "GET", "/api/me", name)).status).toBe(200);
    const [deed] = (await owned.owner.ask("GET", "/api/audit?most=1")).body;
    expect(deed).toMatchObject({ who: "Zoë", words: "signed in by the proxy" });
  });

  test("and a session of somebody else's is none while it says so", async () => {
    const person = new HttpClient(owned.server.address);
    await ask(person, "POST", "/api/session/proxy", "ines");
    expect((await ask(person, "GET", "/api/people", "Ines")).status).toBe(200);
    expect((await ask(person, "GET", "/api/people", "Bo")).status).toBe(401);
    expect((await ask(person, "GET", "/api/me", "Bo")).status).toBe(401);
  });

  test("and whom nobody knows stays out, as does whom it does not name", async () => {
    const person = new HttpClient(owned.server.address);
    expect((await ask(person, "POST", "/api/session/proxy", "Bo")).body.title).toBe("Nobody of that name");
    for (const name of ["", " ", "Ines, Ines", undefined])
      expect((await ask(person, "POST", "/api/session/proxy", name)).status, name).toBe(401);
    expect((await ask(person, "GET", "/api/setup")).body.byProxy).toBe(false);
  });
});

describe.each([
  ["another address is the proxy's", { ...header, NUBREL_PROXIES: "192.0.2.7" }],
  ["no header was named", { NUBREL_PROXIES: "127.0.0.1" }],
])("where %s", (_, env) => {
  let owned: OwnedServer;
  beforeAll(async () => {
    owned = await ownedServer(env);
  });
  afterAll(() => owned.close());

  test("the header says nothing", async () => {
    const forged = { "Remote-User": "Ines", "X-Forwarded-For": "192.0.2.7" };
    const person = new HttpClient(owned.server.address);
    expect((await person.ask("POST", "/api/session/proxy", undefined, forged)).status).toBe(401);
    expect((await person.ask("GET", "/api/me", undefined, forged)).status).toBe(401);
    expect((await owned.owner.ask("GET", "/api/me", undefined, { "Remote-User": "Bo" })).status).toBe(200);
  });
});

test("a header without named proxies, or with a name that is none, is refused at the start", () => {
  const env = { NUBREL_DATABASE_URL: "postgres://127.0.0.1/nubrel" };
  expect(() => readConfig({ ...env, ...header })).toThrow(/needs NUBREL_PROXIES/);
  const odd = { ...env, NUBREL_PROXIES: "127.0.0.1", NUBREL_SIGN_IN_HEADER: "Remote User" };
  expect(() => readConfig(odd)).toThrow(ConfigError);
});
