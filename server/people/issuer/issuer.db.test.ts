import { afterAll, beforeAll, describe, expect, test } from "vitest";
import { HttpClient } from "../../testing/http-client.ts";
import { type OidcIssuer, startOidcIssuer, throughIssuer } from "../../testing/oidc-issuer.ts";
import { type OwnedServer, ownedServer } from "../../testing/owned-server.ts";

// Signing in by an issuer that is a library of its own (OpenID Connect Core 1.0, §3.1). Each test goes on where the one
// before ended.
const password = "kestrel on the quay";
let owned: OwnedServer;
let owner: HttpClient;
let issuer: OidcIssuer;
let back: string;
const roles = { claim: "groups", owner: ["harbour masters"], keeper: ["crane drivers"], viewer: ["guests"] };

beforeAll(async () => {
  owned = await ownedServer();
  ({ owner } = owned);
  back = `${owned.server.address}/api/session/issuer/back`;
  issuer = await startOidcIssuer([back]);
});
afterAll(async () => {
  await issuer.close();
  await owned.close();
});

const settings = () => ({
  ...{ url: issuer.url, clientId: issuer.clientId, secret: issuer.secret, name: "the harbour", roles },
});

/** Begins to ask; what the browser keeps meanwhile. */
async function begin(
  client = new HttpClient(owned.server.address),
  path = "/api/session/issuer/begin",
  to = "/alerts",
) {
  const { cookie } = client;
  const { status, body, headers } = await client.ask("POST", path, { to });
  client.cookie = cookie; // a browser keeps both
  const kept = headers.getSetCookie().find((one) => one.startsWith("nubrel_asked=")) ?? "";
  return { status, body, url: body.url as string, kept: kept.split(";")[0] as string, attributes: kept };
}

/** Comes back; where the browser is sent, and who is signed in then. */
async function comeBack(address: string, kept: string) {
  const response = await fetch(address, { redirect: "manual", headers: { Cookie: kept } });
  const session = response.headers.getSetCookie().find((one) => one.startsWith("nubrel_session="));
  const client = new HttpClient(owned.server.address);
  client.cookie = session?.split(";")[0] ?? "";
  return { to: response.headers.get("location"), client };
}

async function enter(login: string) {
  const { url, kept } = await begin();
  return await comeBack(await throughIssuer(url, login, back), kept);
}

const newestDeed = async () => (await owner.ask("GET", "/api/audit?most=1")).body[0];

describe("an issuer is named", () => {
  test.each([
    ["that does not answer", { url: "http://localhost:1" }, "url"],
    ["without TLS elsewhere", { url: "http://192.0.2.1" }, "url"],
    ["with scopes that leave openid out", { scopes: "profile" }, "scopes"],
    ["that makes owners of everybody else", { roles: { ...roles, others: "owner" } }, "roles.others"],
  ])("not one %s", async (_, change, path) => {
    const { status, body } = await owner.ask("PUT", "/api/issuer", { ...settings(), ...change });
    expect([status, body.errors[0].path]).toEqual([422, path]);
  });

  test("and kept with its secret sealed; a change without a secret leaves it", async () => {
    expect((await owner.ask("GET", "/api/issuer")).body).toEqual({ issuer: null, back });
    expect((await begin()).status).toBe(422);
    expect((await owner.ask("PUT", "/api/issuer", settings())).status).toBe(200);
    const { secret: _, ...without } = settings();
    const { body } = await owner.ask("PUT", "/api/issuer", without);
    expect(body.issuer).toMatchObject({ name: "the harbour", hasSecret: true, scopes: "openid profile email" });
    // What was entered for one issuer goes to no other, nor does it come back.
    const other = await startOidcIssuer([back]);
    const moved = await owner.ask("PUT", "/api/issuer", { ...without, url: other.url });
    expect(moved.body.issuer.hasSecret).toBe(false);
    await other.close();
    await owner.ask("PUT", "/api/issuer", settings());
    const { rows } = await owned.db.database.query(
      "select issuer::text as a from issuer union all select audit::text from audit",
    );
    expect(JSON.stringify(rows)).not.toContain(issuer.secret);
    const anybody = await new HttpClient(owned.server.address).ask("GET", "/api/setup");
    expect(anybody.body).toEqual({ needed: false, issuer: "the harbour", byProxy: false });
  });
});

describe("somebody comes by the issuer", () => {
  test("and is who it says, with the role of its claim, where they wanted to be", async () => {
    issuer.claims.set("4711", { preferred_username: "Bo", groups: ["guests"] });
    const { to, client } = await enter("4711");
    expect(to).toBe("/alerts");
    expect((await client.ask("GET", "/api/me")).body).toEqual({ name: "Bo", role: "viewer" });
    expect(await newestDeed()).toMatchObject({ who: "Bo", knownBy: "person", words: "came back from the issuer" });
  });

  test("and is another when the claim is, at the next time; without a role they stay out", async () => {
    issuer.claims.set("4711", { preferred_username: "Bo the second", groups: ["crane drivers", "guests"] });
    expect((await (await enter("4711")).client.ask("GET", "/api/me")).body).toEqual({ name: "Bo", role: "keeper" });
    issuer.claims.set("4711", { groups: ["dock rats"] });
    const { to, client } = await enter("4711");
    expect([to, (await client.ask("GET", "/api/me")).status]).toEqual(["/?not-in=role", 401]);
    expect((await newestDeed()).outcome).toBe("refused: role");
  });

  test("and takes over nobody's name", async () => {
    issuer.claims.set("0815", { preferred_username: "ines", groups: ["harbour masters"] });
    expect((await enter("0815")).to).toBe("/?not-in=name");
  });

  test("and stays out where an owner had them leave", async () => {
    issuer.claims.set("4712", { preferred_username: "Cleo", groups: ["guests"] });
    await enter("4712");
    const people = (await owner.ask("GET", "/api/people")).body as readonly { id: number; name: string }[];
    await owner.ask("DELETE", `/api/people/${people.find(({ name }) => name === "Cleo")?.id}`);
    expect((await enter("4712")).to).toBe("/?not-in=other");
  });
});

describe("nobody comes in", () => {
  test("without what their browser kept, with another's, or a second time", async () => {
    issuer.claims.set("4711", { groups: ["guests"] });
    const { url, kept, attributes } = await begin();
    expect(attributes).toMatch(/HttpOnly; SameSite=Lax$/);
    const address = await throughIssuer(url, "4711", back);
    expect((await comeBack(address, "")).to).toBe("/?not-in=late");
    const turned = `${kept.slice(0, -2)}${kept.at(-2) === "A" ? "B" : "A"}${kept.at(-1)}`;
    expect((await comeBack(address, turned)).to).toBe("/?not-in=late");
    expect((await comeBack(address, (await begin()).kept)).to).toBe("/?not-in=unsure");
    expect((await comeBack(address, kept)).to).toBe("/alerts");
    expect((await comeBack(address, kept)).to).toBe("/?not-in=unsure");
  });

  test("with a code of another's address, or by an answer that says no", async () => {
    const [mine, theirs] = [await begin(), await begin()];
    const [own, other] = await Promise.all([mine, theirs].map(({ url }) => throughIssuer(url, "4711", back)));
    const forged = new URL(own as string);
    forged.searchParams.set("code", new URL(other as string).searchParams.get("code") as string);
    expect((await comeBack(forged.href, mine.kept)).to).toBe("/?not-in=unsure");
    const { url, kept } = await begin();
    const state = new URL(url).searchParams.get("state");
    expect((await comeBack(`${back}?error=access_denied&state=${state}`, kept)).to).toBe("/?not-in=refused");
    expect((await comeBack(`${back}?error=access_denied&state=other`, kept)).to).toBe("/?not-in=unsure");
    expect((await comeBack(back, kept)).to).toBe("/?not-in=unsure");
  });

  test.each(["//quay.example", "https://quay.example", "/\\quay.example", "alerts"])("to %s", async (to) => {
    expect((await begin(undefined, undefined, to)).status).toBe(422);
  });

  test("where the issuer signs for another client", async () => {
    const { url, kept } = await begin();
    const address = await throughIssuer(url, "4711", back);
    await owned.db.database.query(`update issuer set settings = jsonb_set(settings, '{clientId}', '"another"')`);
    expect((await comeBack(address, kept)).to).toBe("/?not-in=unsure");
    await owner.ask("PUT", "/api/issuer", settings());
  });
});

describe("somebody who is here", () => {
  test("links themselves, keeps what they are, and takes nobody else's", async () => {
    issuer.claims.set("0815", { preferred_username: "ines", groups: [] });
    const { url, kept } = await begin(owner, "/api/me/issuer/begin", "/account");
    const address = await throughIssuer(url, "0815", back);
    expect((await comeBack(address, kept)).to).toBe("/account");
    const { client } = await enter("0815");
    expect((await client.ask("GET", "/api/me")).body).toEqual({ name: "Ines", role: "owner" });
    expect((await client.ask("GET", "/api/me/ways")).body).toEqual({
      ...{ hasPassword: true, passkeys: 0, issuer: { name: "the harbour", isLinked: true } },
    });
    const again = await begin(owner, "/api/me/issuer/begin", "/account");
    const others = await throughIssuer(again.url, "4711", back);
    expect((await comeBack(others, again.kept)).to).toBe("/account?not-in=taken");
  });

  test("links nobody by a session that was ended meanwhile", async () => {
    await owner.ask("POST", "/api/people", { name: "Emil", password, role: "viewer" });
    const emil = new HttpClient(owned.server.address);
    await emil.ask("POST", "/api/session", { name: "Emil", password });
    const { url, kept } = await begin(emil, "/api/me/issuer/begin", "/account");
    const address = await throughIssuer(url, "4713", back);
    await emil.ask("DELETE", "/api/me/sessions");
    expect((await comeBack(address, kept)).to).toBe("/account?not-in=late");
  });

  test("shows there again who they are, as themselves alone", async () => {
    await owned.db.database.query("update session set proven_at = now() - interval '11 minutes'");
    const asked = await begin(owner, "/api/me/proof/issuer/begin", "/people");
    expect(new URL(asked.url).searchParams.get("prompt")).toBe("login");
    const other = await throughIssuer(asked.url, "4711", back);
    expect((await comeBack(other, asked.kept)).to).toBe("/people?not-in=other");
    expect((await owner.ask("DELETE", "/api/me/issuer")).body.asks).toBe("proof");
    const { url, kept } = await begin(owner, "/api/me/proof/issuer/begin", "/people");
    expect((await comeBack(await throughIssuer(url, "0815", back), kept)).to).toBe("/people");
    expect((await owner.ask("DELETE", "/api/me/issuer")).status).toBe(204);
    expect((await owner.ask("DELETE", "/api/me/issuer")).status).toBe(404);
  });

  test("has no other way in left where the issuer brought them, and keeps it", async () => {
    issuer.claims.set("4711", { groups: ["crane drivers"] });
    const { client } = await enter("4711");
    expect((await client.ask("DELETE", "/api/me/issuer")).body.title).toBe("It is your last way in");
    expect((await client.ask("PUT", "/api/me/password", { next: password })).status).toBe(204);
    expect((await client.ask("DELETE", "/api/me/issuer")).status).toBe(204);
  });

  test("the last owner stays one, whatever the issuer says", async () => {
    issuer.claims.set("1", { preferred_username: "Dora", groups: ["harbour masters"] });
    const { client } = await enter("1");
    const people = (await client.ask("GET", "/api/people")).body as readonly { id: number; name: string }[];
    const ines = people.find(({ name }) => name === "Ines");
    expect((await client.ask("DELETE", `/api/people/${ines?.id}`)).status).toBe(204);
    issuer.claims.set("1", { groups: ["guests"] });
    const again = await enter("1");
    expect((await again.client.ask("GET", "/api/me")).body.role).toBe("owner");
    expect((await again.client.ask("DELETE", "/api/issuer")).body.title).toBe("It is your last way in");
    expect((await again.client.ask("PUT", "/api/me/password", { next: password })).status).toBe(204);
    expect((await again.client.ask("DELETE", "/api/issuer")).status).toBe(204);
    expect((await begin()).status).toBe(422);
  });
});
