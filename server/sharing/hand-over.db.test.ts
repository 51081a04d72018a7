import { randomUUID } from "node:crypto";
import { createServer } from "node:http";
import type { AddressInfo } from "node:net";
import pino from "pino";
import { afterAll, beforeAll, expect, test, vi } from "vitest";
import type { SourceSettings } from "../../core/sources/source.ts";
import { SecretBox } from "../sources/secret-box.ts";
import { Sources } from "../sources/sources.ts";
import { Store } from "../store/store.ts";
import { type TestDatabase, testDatabase } from "../testing/test-database.ts";
import { AskingShare } from "./asking-share.ts";
import { giveLeases } from "./lease-rows.ts";
import { LeaderClient } from "./leader-client.ts";
import { SourcesHere } from "./sources-here.ts";
import { TellingAccounts } from "./telling-accounts.ts";
import { takeRecords } from "./shared-records-router.ts";

const log = pino({ level: "silent" });
let db: TestDatabase;
let store: Store;
let sources: Sources;
let visits = 0;
const page = createServer((_request, response) => {
  response.setHeader("content-type", "text/plain; version=0.0.4");
  response.end(`# TYPE visits gauge\nvisits ${++visits}\n`);
});

beforeAll(async () => {
  db = await testDatabase();
  store = await Store.open(db.database, {});
  sources = await Sources.open(db.database, store, SecretBox.open(undefined), log);
  await new Promise<void>((resolve) => page.listen(0, "127.0.0.1", resolve));
});
afterAll(async () => {
  page.close();
  await sources.close();
  await store.close();
  await db.drop();
});

const pageSettings = (intervalMs: number): SourceSettings => ({
  ...{ name: "page", machine: "page", intervalMs, tellsSilence: true, trust: { kind: "system" }, device: null },
  address: {
    scheme: "http",
    host: "127.0.0.1",
    port: (page.address() as AddressInfo).port,
    path: "/",
    timeoutMs: 5000,
  },
  ...{ tags: {}, take: [], csv: null },
});

/** What asks beside a server that leads, and finds none that does. */
function shareOf(instance: ReturnType<typeof randomUUID>): AskingShare {
  const [{ database }, leader, basePath] = [db, async () => undefined, ""];
  const accounts = new TellingAccounts(new LeaderClient({ leader, basePath }), log, () => {});
  const here = { sources: new SourcesHere(database, store), accounts };
  return new AskingShare({ ...{ database, log, instance, box: SecretBox.open(undefined), basePath, leader }, ...here });
}

test("a source that is lent, or changed, while its secret is read is asked from there, or as it was changed last", async () => {
  const { source } = await sources.create("pull", pageSettings(250));
  await sources.lend(source.id);
  await Promise.all([sources.takeBack(source.id), sources.lend(source.id)]);
  const lent = visits;
  await new Promise((resolve) => setTimeout(resolve, 1000));
  expect(visits).toBe(lent);
  await sources.takeBack(source.id);
  await Promise.all(
    Array.from({ length: 24 }, (_, i) => 200 + i).map((intervalMs) =>
      sources.change(source.id, pageSettings(intervalMs)),
    ),
  );
  await sources.remove(source.id);
  const removed = visits;
  await new Promise((resolve) => setTimeout(resolve, 1000));
  expect(visits).toBe(removed);
});

test("what is gathered while no server leads is kept, and stored by the one that takes the lead, each at its time", async () => {
  const { source } = await sources.create("pull", { ...pageSettings(250), name: "another page" });
  await sources.lend(source.id);
  const [before, instance] = [visits, randomUUID()];
  await giveLeases(db.database, [{ id: source.id, server: instance, haste: null }]);
  const share = shareOf(instance);
  share.start();
  await vi.waitFor(() => expect(visits).toBeGreaterThan(before + 3), { timeout: 10_000, interval: 20 });
  const gathered = await share.handOver();
  const asked = visits;
  await share.close();
  await takeRecords(sources, [...gathered, ...gathered, ""]);
  const [column] = await store.read(
    store.series.ofCounter("visits").map(({ id }) => id),
    0,
    Date.now() + 1000,
  );
  const stored = [...(column?.value ?? [])].filter((visit) => visit > before);
  // One may be under way when it ends.
  expect(stored.length).toBeGreaterThanOrEqual(asked - before - 1);
  expect(stored).toEqual(Array.from(stored, (_, i) => before + 1 + i));
  expect([...(column?.timeMs ?? [])]).toEqual([...new Set(column?.timeMs ?? [])]);
  const { rows } = await db.database.query("select from source_lease");
  expect(rows).toHaveLength(0);
});

test("a source whose secret cannot be read here is told as failed, so that another server asks it", async () => {
  const secret = { kind: "basic", user: "quay", password: "a lamp" } as const;
  const { source } = await sources.create("pull", { ...pageSettings(250), name: "a page with a lock" }, secret);
  await sources.lend(source.id);
  const instance = randomUUID();
  await giveLeases(db.database, [{ id: source.id, server: instance, haste: null }]);
  const share = shareOf(instance);
  share.start();
  await new Promise((resolve) => setTimeout(resolve, 1500));
  const told = await share.handOver();
  await share.close();
  await takeRecords(sources, told);
  expect(sources.find(source.id)?.isFailing).toBe(true);
  expect(sources.find(source.id)?.view(Date.now()).failure?.kind).toBe("wrong credentials");
});

test("what is expected of series that another server stores is noted here, also where more come later", async () => {
  const { source } = await sources.create("pull", { ...pageSettings(7000), name: "a page that others ask" });
  await sources.lend(source.id);
  const made = async (n: string) => {
    const named = { counter: "beside", tags: { machine: "lamp", n }, unit: "1", kind: "level" as const };
    return await store.series.resolve([{ ...named, sourceId: source.id }]);
  };
  const told = { atMs: Date.now(), newestMs: null, help: [], taken: { found: 1, taken: 1, leftOut: {} } };
  const ids = [...(await made("1"))];
  expect(store.intervalsMs(ids)).toEqual(Float64Array.of(Number.NaN));
  for (const n of ["2", "3"]) {
    sources.find(source.id)?.tookElsewhere(told);
    sources.noteExpected();
    expect(store.intervalsMs(ids)).toEqual(new Float64Array(ids.length).fill(7000));
    ids.push(...(await made(n)));
  }
});

test("a failure that came after what is told of only now stays", async () => {
  const { source } = await sources.create("pull", { ...pageSettings(7000), name: "a page that fails" });
  await sources.lend(source.id);
  const run = sources.find(source.id);
  const told = { newestMs: null, help: [], taken: { found: 1, taken: 1, leftOut: {} } };
  const atMs = Date.now();
  run?.failed({ kind: "no answer", words: "It is silent.", remedy: "", atMs, certificate: null });
  run?.tookElsewhere({ ...told, atMs: atMs - 100 });
  expect([run?.isFailing, run?.heardMs]).toEqual([true, atMs - 100]);
  run?.tookElsewhere({ ...told, atMs: atMs + 100 });
  expect([run?.isFailing, run?.heardMs]).toEqual([false, atMs + 100]);
});
