import { type MailServer, startMailServer } from "../testing/mail-server.ts";
import { afterAll, beforeAll, describe, expect, test } from "vitest";
import { handingOver } from "../messages/handing-over.ts";
import { HttpClient } from "../testing/http-client.ts";
import { type OwnedServer, ownedServer } from "../testing/owned-server.ts";
import { PushKeys } from "../messages/push-keys.ts";
import { tellDoorNews } from "./door-news.ts";

// What happens at the door, told by a real mail server. Each test goes on where the one before ended.
let owned: OwnedServer;
let owner: HttpClient;
let mail: MailServer;
let tell: () => Promise<void>;

beforeAll(async () => {
  owned = await ownedServer();
  ({ owner } = owned);
  mail = await startMailServer();
  const { database } = owned.db;
  const { box } = owned.server as unknown as { box: Parameters<typeof handingOver>[0]["box"] };
  tell = () =>
    tellDoorNews(database, handingOver({ database, box, pushKeys: new PushKeys(database, box) }), Date.now());
});
afterAll(async () => {
  await mail.close();
  await owned.close();
});

const tryWrongly = (name: string) =>
  new HttpClient(owned.server.address).ask("POST", "/api/session", { name, password: "not this one" });
const view = async () => (await owner.ask("GET", "/api/door-news")).body;

describe("what happens at the door", () => {
  test("is told to nobody until somebody is named, and nothing of before", async () => {
    expect(await view()).toEqual({ recipient: null, of: ["wrong", "places", "tokens"], lastSent: null });
    await tryWrongly("Bo");
    await tell();
    const addressed = {
      ...{ host: "127.0.0.1", port: mail.port, security: "none" },
      ...{ user: "", from: "nubrel@quay.example", to: ["ines@quay.example"] },
    };
    const { body } = await owner.ask("POST", "/api/recipients", { name: "Ines", kind: "email", mail: addressed });
    for (const wish of [
      { recipient: body.id },
      { recipient: body.id, of: ["gossip"] },
      { recipient: 0, of: [] },
      { recipient: 99, of: [] },
    ])
      expect((await owner.ask("PUT", "/api/door-news", wish)).status).toBe(422);
    const put = await owner.ask("PUT", "/api/door-news", { recipient: body.id, of: ["wrong", "tokens"] });
    expect(put.status).toBe(200);
    await tell();
    expect(mail.mails).toHaveLength(0);
  });

  test("is told in one message, and again where it did not arrive", async () => {
    await tryWrongly("Cleo"); // the same refusal is written down once a minute
    await owner.ask("POST", "/api/tokens", { name: "backup", scope: "read" });
    mail.refuses = true;
    await tell();
    expect((await view()).lastSent).toMatchObject({ worked: false });
    mail.refuses = false;
    await tell();
    expect((await view()).lastSent).toMatchObject({ worked: true });
    expect(mail.mails).toHaveLength(1);
    expect(mail.mails[0]).toContain("Subject: 2 things at the door of Nubrel");
    expect(mail.mails[0]).toContain("Somebody did not get in as Cleo from 127.0.0.1: Name or password is wrong.");
    expect(mail.mails[0]).toContain("Ines made the token backup");
    await tell();
    await owner.ask("POST", "/api/dashboards", {});
    await tell();
    expect(mail.mails).toHaveLength(1);
  });
});
