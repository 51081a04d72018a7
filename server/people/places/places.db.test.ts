import { afterAll, beforeAll, describe, expect, test } from "vitest";
import { HttpClient } from "../../testing/http-client.ts";
import { type OwnedServer, ownedServer } from "../../testing/owned-server.ts";

const password = "kestrel on the quay";
const desk = "Mozilla/5.0 (X11; Linux x86_64; rv:140.0) Gecko/20100101 Firefox/140.0";
const phone = "Mozilla/5.0 (Android 15; Mobile; rv:140.0) Gecko/140.0 Firefox/140.0";
let owned: OwnedServer;
let owner: HttpClient;

beforeAll(async () => {
  owned = await ownedServer({ NUBREL_PROXIES: "127.0.0.1" });
  ({ owner } = owned);
  await owner.ask("POST", "/api/people", { name: "Bo", password, role: "keeper" });
});
afterAll(() => owned.close());

/** Signs Bo in by a browser at an address, as the proxy says. */
async function at(device: string, address: string) {
  const headers = { "User-Agent": device, "X-Forwarded-For": address };
  const client = new HttpClient(owned.server.address);
  await client.ask("POST", "/api/session", { name: "Bo", password }, headers);
  return { ask: (method: string, path: string, body?: unknown) => client.ask(method, path, body, headers) };
}
type Somewhere = Awaited<ReturnType<typeof at>>;
const told = async (here: Somewhere) =>
  ((await here.ask("GET", "/api/me/places")).body as readonly { network: string }[]).map(({ network }) => network);

describe("a new place", () => {
  let home: Somewhere;
  let away: Somewhere;

  test("is told everywhere but there; the first one is none, nor the same once more", async () => {
    home = await at(desk, "192.0.2.7");
    expect(await told(await at(desk, "192.0.2.7"))).toEqual([]);
    away = await at(phone, "198.51.100.9");
    expect(await told(home)).toEqual(["198.51.100.9"]);
    expect(await told(away)).toEqual([]);
    await at(phone, "198.51.100.9");
    expect(await told(home)).toHaveLength(1);
    const deeds = (await owner.ask("GET", "/api/audit?text=new place")).body;
    expect(deeds).toMatchObject([{ who: "Bo", place: "198.51.100.9", words: "signed in at a new place" }]);
  });

  test("that one does not own up to is ended, and told again the next time", async () => {
    const [place] = (await home.ask("GET", "/api/me/places")).body;
    for (const [method, path] of [
      ["POST", `/api/me/places/${place.id}/known`],
      ["DELETE", `/api/me/places/${place.id}`],
    ] as const)
      expect((await away.ask(method, path)).status, method).toBe(404);
    expect((await home.ask("DELETE", `/api/me/places/${place.id}`)).status).toBe(204);
    expect((await away.ask("GET", "/api/me")).status).toBe(401);
    expect((await home.ask("GET", "/api/me")).status).toBe(200);
    expect(await told(home)).toEqual([]);
    away = await at(phone, "198.51.100.9");
    expect(await told(home)).toEqual(["198.51.100.9"]);
  });

  test("that was them is told no more; of IPv6 a house's network is one place", async () => {
    const [place] = (await home.ask("GET", "/api/me/places")).body;
    expect((await home.ask("POST", `/api/me/places/${place.id}/known`)).status).toBe(204);
    expect((await home.ask("POST", `/api/me/places/${place.id}/known`)).status).toBe(404);
    expect(await told(home)).toEqual([]);
    await at(phone, "2001:db8:1:2::aa");
    await at(phone, "2001:db8:1:2::bb");
    expect(await told(home)).toEqual(["2001:db8:1:2::/64"]);
    await at(phone, "2001:db8:1:3::aa");
    expect(await told(home)).toHaveLength(2);
  });

  test("of somebody is nobody else's", async () => {
    const [place] = (await home.ask("GET", "/api/me/places")).body;
    expect((await owner.ask("POST", `/api/me/places/${place.id}/known`)).status).toBe(404);
    expect((await owner.ask("DELETE", `/api/me/places/${place.id}`)).status).toBe(404);
  });
});

describe("a change of what one signs in by", () => {
  const changes = async (here: Somewhere) =>
    (await here.ask("GET", "/api/me/changes")).body as readonly { id: number; words: string }[];

  test("is told on one's other pages, and not where it was made", async () => {
    const [home, away] = [await at(desk, "192.0.2.7"), await at(phone, "198.51.100.9")];
    expect((await away.ask("POST", "/api/me/tokens", { name: "t", scope: "read", until: soon() })).status).toBe(201);
    expect(await changes(away)).toEqual([]);
    const [change] = await changes(home);
    expect(change?.words).toBe("made a token of theirs");
    expect((await away.ask("POST", `/api/me/changes/${change?.id}/known`)).status).toBe(404);
    expect((await owner.ask("POST", `/api/me/changes/${change?.id}/known`)).status).toBe(404);
    expect((await home.ask("POST", `/api/me/changes/${change?.id}/known`)).status).toBe(204);
    expect(await changes(home)).toEqual([]);
  });
});

const soon = () => new Date(Date.now() + 86_400_000).toISOString();
