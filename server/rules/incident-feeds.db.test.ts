import { execFileSync } from "node:child_process";
import { mkdtempSync, rmSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { afterAll, beforeAll, describe, expect, test } from "vitest";
import { HttpClient } from "../testing/http-client.ts";
import { type OwnedServer, ownedServer } from "../testing/owned-server.ts";

let here: OwnedServer;
let token: string;
const hourMs = 3_600_000;
/** Whole seconds: a calendar has no parts of one. */
const now = Math.floor(Date.now() / 1000) * 1000;
const get = async (path: string) => {
  const response = await fetch(`${here.server.address}/api${path}`);
  return { status: response.status, type: response.headers.get("content-type"), text: await response.text() };
};

beforeAll(async () => {
  here = await ownedServer();
  await here.owner.ask("PUT", "/api/machines/vault", { friendlyName: "the <vault> & its disks", tags: {} });
  const insert = (name: string, raisedAtMs: number, clearedAtMs: number | null) =>
    here.db.database.query(
      `insert into incident (rule_name, severity, tags, compare, limit_value, unit, value, furthest, raised_at_ms, cleared_at_ms, cleared_value)
       values ($1::text, 'urgent', '{"machine": "vault"}', 'above', 0.9, '1', 0.97, 0.99, $2::bigint, $3::bigint, 0.5)`,
      [name, raisedAtMs, clearedAtMs],
    );
  await insert("Disks busy", now - 3 * hourMs, now - hourMs);
  await insert("Still full", now - 2 * hourMs, null);
  await insert("Long ago", now - 100 * 24 * hourMs, now - 99 * 24 * hourMs);
  token = (await here.owner.ask("POST", "/api/tokens", { name: "reader", scope: "feed" })).body.token;
});
afterAll(() => here.close());

describe("incidents as a feed", () => {
  // RFC 4287: read by Debian's own XML reader, and held to what section 4.1 wants of feeds and entries.
  test("is Atom, well formed, with what an entry must have", async () => {
    const { status, type, text } = await get(`/incidents.atom?token=${token}`);
    expect([status, type]).toEqual([200, "application/atom+xml; charset=utf-8"]);
    const folder = mkdtempSync(join(tmpdir(), "nubrel-feed-"));
    writeFileSync(join(folder, "feed.xml"), text);
    const program = `
import sys, json, xml.etree.ElementTree as tree
a = "{http://www.w3.org/2005/Atom}"
feed = tree.parse(sys.argv[1]).getroot()
print(json.dumps({"root": feed.tag, "id": feed.findtext(a + "id"), "updated": feed.findtext(a + "updated"), "author": feed.findtext(a + "author/" + a + "name"),
  "entries": [{n: e.findtext(a + n) for n in ("id", "title", "updated", "published", "summary")} | {"link": e.find(a + "link").get("href")} for e in feed.findall(a + "entry")]}))`;
    const read = JSON.parse(
      execFileSync("/usr/bin/python3", ["-c", program, join(folder, "feed.xml")], { encoding: "utf8" }),
    );
    rmSync(folder, { recursive: true });
    expect(read).toMatchObject({ root: "{http://www.w3.org/2005/Atom}feed", author: "Nubrel" });
    expect(read.entries.map(({ title }: { title: string }) => title)).toEqual([
      "the <vault> & its disks: Still full",
      "the <vault> & its disks: Disks busy",
    ]);
    const [open, cleared] = read.entries;
    expect(Date.parse(open.updated)).toBe(now - 2 * hourMs);
    expect(Date.parse(cleared.published)).toBe(now - 3 * hourMs);
    expect(Date.parse(cleared.updated)).toBe(now - hourMs);
    expect(Date.parse(read.updated)).toBe(now - hourMs);
    expect(open.summary).toContain("raised at 0.97");
    expect(cleared.summary).toContain("cleared after 2 h at 0.5");
    expect(new Set([read.id, open.id, cleared.id]).size).toBe(3);
    // RFC 9562, 5.8
    for (const { id } of read.entries)
      expect(id).toMatch(/^urn:uuid:[0-9a-f]{8}-[0-9a-f]{4}-8[0-9a-f]{3}-[89ab][0-9a-f]{3}-[0-9a-f]{12}$/);
    expect(open.link).toMatch(new RegExp(`^${here.server.address}/alerts/incidents/\\d+\\?from=`));
    expect((await get(`/incidents.atom?token=${token}`)).text).toBe(text);
  });

  // RFC 5545, 3.6.1 and 3.8.2: an event ends after it begins.
  test("is a calendar", async () => {
    const { type, text } = await get(`/incidents.ics?token=${token}`);
    expect(type).toBe("text/calendar; charset=utf-8");
    const stamp = (ms: number) => new Date(ms).toISOString().replace(/[-:]|\.\d+/g, "");
    expect(text.startsWith("BEGIN:VCALENDAR\r\nVERSION:2.0\r\n")).toBe(true);
    expect(text.match(/BEGIN:VEVENT/g)).toHaveLength(2);
    expect(text).toContain(`DTSTART:${stamp(now - 3 * hourMs)}\r\nDTEND:${stamp(now - hourMs)}\r\n`);
    expect(text).toContain(`DTSTART:${stamp(now - 2 * hourMs)}\r\nDTEND:`);
  });

  test("opens with a token for feeds alone, which opens nothing else", async () => {
    for (const name of ["atom", "ics"]) {
      expect((await get(`/incidents.${name}`)).status).toBe(401);
      for (const scope of ["read", "manage", "calendar"]) {
        const other = (await here.owner.ask("POST", "/api/tokens", { name: scope, scope })).body.token;
        expect((await get(`/incidents.${name}?token=${other}`)).status).toBe(401);
      }
    }
    expect((await get(`/quiet-times.ics?token=${token}`)).status).toBe(401);
    const plain = new HttpClient(here.server.address);
    expect(
      (await plain.ask("GET", "/api/incidents?from=0&to=1", undefined, { Authorization: `Bearer ${token}` })).status,
    ).toBe(403);
  });
});
