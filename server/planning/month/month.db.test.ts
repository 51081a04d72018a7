import { type MailServer, startMailServer } from "../../testing/mail-server.ts";
import { afterAll, beforeAll, describe, expect, test } from "vitest";
import type { MonthSendingView, MonthView } from "../../../core/api/month.ts";
import { batchOf } from "../../../core/series/batch.ts";
import { readMonthSending, writeMonthSending } from "../planning-rows.ts";
import { type OwnedServer, ownedServer } from "../../testing/owned-server.ts";
import { dueAt, monthBefore, sendMonthWhereDue } from "./month-sending.ts";
import { level } from "../../testing/new-series.ts";

// The month before this one, and the one before that: vault draws 100 W and 80 W; its disk filled; mast was silent for
// three hours; an urgent incident lasted a day.
const hour = 3_600_000;
const day = 24 * hour;
const now = new Date();
const month = (back: number) => Date.UTC(now.getUTCFullYear(), now.getUTCMonth() - back, 1);
const name = (back: number) => new Date(month(back)).toISOString().slice(0, 7);

let it: OwnedServer;
let mail: MailServer;

beforeAll(async () => {
  it = await ownedServer();
  mail = await startMailServer();
  // Samples of two months ago are kept: they are written at once, and not as they came.
  await it.owner.ask("PUT", "/api/retention", { rawDays: 100, fiveMinuteDays: 180, hourDays: 1825 });
  const { store } = it.server as unknown as { store: import("../../store/store.ts").Store };
  const ids = (await store.series.resolve([
    level("hw.host.power", { machine: "vault", sensor: "whole" }, "W"),
    level("storage.pool.usage", { machine: "vault", pool: "archive", state: "used" }, "By"),
    level("storage.pool.limit", { machine: "vault", pool: "archive" }, "By"),
  ])) as unknown as number[];
  for (let from = month(2); from < month(0); from += 5 * day) {
    const rows: [number, number, number][] = [];
    for (let at = from; at < Math.min(month(0), from + 5 * day); at += hour / 6)
      rows.push(
        [ids[0] as number, at, at < month(1) ? 80 : 100],
        [ids[1] as number, at, 1e12 + 1e4 * ((at - month(2)) / 1000)],
        [ids[2] as number, at, 4e12],
      );
    await store.write(batchOf(rows));
  }
  const incident = (rule: string, severity: string, compare: string, machine: string, from: number, to: number) =>
    it.db.database.query(
      `insert into incident (rule_name, severity, tags, compare, watch, limit_value, unit, raised_at_ms, cleared_at_ms)
       values ($1::text, $2::text, $3::jsonb, $4::text, 'value', 1, '1', $5::bigint, $6::bigint)`,
      [rule, severity, JSON.stringify({ machine }), compare, from, to],
    );
  await incident("disks <busy>", "urgent", "above", "vault", month(1) + 5 * day, month(1) + 6 * day);
  await incident("silent", "notice", "silent", "mast", month(1) + 9 * day, month(1) + 9 * day + 3 * hour);
  await incident("old", "notice", "above", "vault", month(2) + day, month(2) + day + hour);
  await it.owner.ask("PUT", "/api/tariffs", [
    { name: "rack", currency: "EUR", zone: "UTC", from: "2020-01-01", price: 0.25 },
  ]);
}, 120_000);
afterAll(async () => {
  await it.close();
  await mail.close();
});

const ask = async (back: number) =>
  (await it.owner.ask("GET", `/api/planning/month?month=${name(back)}&zone=UTC`)).body as MonthView;

describe("the month on one page", () => {
  test("has what failed, what it cost, what grew, who was silent, and the month before beside it", async () => {
    const view = await ask(1);
    const days = (month(0) - month(1)) / day;
    expect(view).toMatchObject({ month: name(1), isOver: true, fills: [] });
    expect(view.figures).toMatchObject({
      incidents: 2,
      urgent: 1,
      raisedMs: 27 * hour,
      silentMs: 3 * hour,
      currency: "EUR",
    });
    expect((view.figures.wattHours as number) / (100 * 24 * days)).toBeCloseTo(1, 2);
    expect((view.figures.cost as number) / (2.4 * days * 0.25)).toBeCloseTo(1, 2);
    expect(view.before.incidents).toBe(1);
    expect((view.before.wattHours as number) / (80 * 24 * ((month(1) - month(2)) / day))).toBeCloseTo(1, 2);
    expect(view.incidents[0]).toMatchObject({ machine: "vault", rule: "disks <busy>", lengthMs: day });
    expect(view.silent).toEqual([{ machine: "mast", silentMs: 3 * hour, times: 1 }]);
    expect(view.grew[0]).toMatchObject({ machine: "vault", what: "pool archive", unit: "By" });
    expect((view.grew[0]?.by as number) / (days * 86_400 * 1e4)).toBeCloseTo(1, 1);
    expect(view.steadiness[0]?.machine).toBe("vault");
    expect(view.words[0]).toBe(
      "2 incidents were raised, 1 of them urgent, for 1 d 3 h in all; the month before had 1.",
    );
    expect(view.words).toContain("mast was silent for 3 h.");
  });
  test("of the present one so far, and of a month before anything is known it says so", async () => {
    expect((await ask(0)).isOver).toBe(false);
    const old = await ask(30);
    expect(old.figures).toMatchObject({ incidents: 0, wattHours: null, cost: null });
    expect(old.words[0]).toBe("No incident was raised.");
    const wrong = await it.owner.ask("GET", "/api/planning/month?month=2026-13");
    expect(wrong.status).toBe(422);
  });
});

describe("the month by mail", () => {
  test("is due on its day at its clock time, across both changes of clock", () => {
    const sending = { recipients: [1], day: 1, at: "07:00", zone: "Europe/Berlin" };
    expect(new Date(dueAt("2026-10", sending)).toISOString()).toBe("2026-11-01T06:00:00.000Z");
    expect(new Date(dueAt("2026-03", sending)).toISOString()).toBe("2026-04-01T05:00:00.000Z");
    expect(monthBefore(Date.parse("2026-10-31T23:30:00Z"), "Europe/Berlin")).toBe("2026-10");
  });
  test("goes to whom it is for, as HTML whose texts are escaped, once", async () => {
    const addressed = {
      to: ["ines@kestrel.example"],
      from: "nubrel@kestrel.example",
      host: "127.0.0.1",
      port: mail.port,
      security: "none",
      user: "",
      issuer: "",
    };
    const made = await it.owner.ask("POST", "/api/recipients", { name: "Ines", kind: "email", mail: addressed });
    expect(made.status).toBe(201);
    const sending = { recipients: [made.body.id], day: 1, at: "00:00", zone: "UTC" };
    expect((await it.owner.ask("PUT", "/api/planning/month/sending", { ...sending, day: 31 })).status).toBe(422);
    const put = await it.owner.ask("PUT", "/api/planning/month/sending", sending);
    expect(put.body as MonthSendingView).toEqual({ ...sending, lastSent: null });
    const sent = await it.owner.ask("POST", "/api/planning/month/send", { month: name(1) });
    expect(sent.body).toEqual([{ recipient: "Ines", worked: true, answer: expect.stringContaining("250") }]);
    expect(mail.mails).toHaveLength(1);
    const text = mail.mails[0] as string;
    expect(text).toContain(`Subject: ${name(1)}: the month on one page`);
    expect(text).toContain("disks &lt;busy&gt;");
    expect(text).not.toContain("<busy>, ");
    const kept = await readMonthSending(it.db.database);
    expect(kept.lastSent).toMatchObject({ month: name(1) });
  });
  test("a job sends the last month where its time has come and it was not sent, and only then", async () => {
    const { planning } = it.server;
    const kept = await readMonthSending(it.db.database);
    await sendMonthWhereDue(planning, Date.now());
    expect(mail.mails).toHaveLength(1);
    await writeMonthSending(it.db.database, { ...kept, lastSent: null, sinceMs: month(1) });
    await sendMonthWhereDue(planning, month(0) - hour);
    await sendMonthWhereDue(planning, month(0) + hour);
    await sendMonthWhereDue(planning, month(0) + 2 * hour);
    expect(mail.mails).toHaveLength(3); // the one of two months ago, whose time had come an hour before this month began
    expect((await readMonthSending(it.db.database)).lastSent?.month).toBe(name(1));
  });
});
