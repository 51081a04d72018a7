import { mkdirSync } from "node:fs";
import { createServer } from "node:http";
import { join } from "node:path";
import { setTimeout as delay } from "node:timers/promises";
import { startServerProcess } from "../e2e/support/server-process.mjs";
import { startCluster } from "./cluster.mjs";
import { seeded } from "./seeded.mjs";
import { say } from "./told.mjs";

const password = "kestrel on the quay";
const sendEveryMs = 25;
/** Between a kill and the next, and until a killed one is started again, at the most. */
const [betweenMs, downMs] = [12_000, 6000];
/** Within this somebody takes what is sent again after the one that leads was killed. */
const takesAgainMs = 15_000;
/** Pages that the servers ask once a second: after a kill another asks them within this. */
const [askedPages, askedAgainMs] = [8, 15_000];
const compareEvery = 5;
const mostListed = 1000;

/**
 * Several servers on one database are sent samples, each of them, and killed one after the other at random moments. What
 * was acknowledged is compared after every few kills: none may be lost, none be there twice. Answers the exit code.
 */
export async function soakServers({ folder, minutes, seed, count }) {
  const random = seeded(seed);
  mkdirSync(join(folder, "a"), { mode: 0o711 });
  const cluster = await startCluster(join(folder, "a"));
  const servers = [];
  const acknowledged = new Set();
  let failure;
  let kills = 0;
  let longestMs = 0;
  let isOver = false;
  const start = (which, port) => startOne(cluster.url, folder, port).then((server) => (servers[which] = server));
  let sending;
  const pages = await Promise.all(Array.from({ length: askedPages }, countingPage));
  try {
    await start(0, 0);
    const token = await tokenOf(servers[0], pages);
    for (let which = 1; which < count; which++) await start(which, 0);
    const ports = servers.map(({ address }) => Number(new URL(address).port));
    const beganMs = Date.now() - 3_600_000;
    let next = 0;
    let takenMs = performance.now();
    sending = (async () => {
      while (!isOver) {
        await delay(sendEveryMs);
        const n = next++;
        const to = servers[n % count];
        const isTaken = await push(to?.address, token, n, beganMs + n).catch(() => false);
        if (!isTaken) continue;
        acknowledged.add(n);
        longestMs = Math.max(longestMs, performance.now() - takenMs);
        takenMs = performance.now();
      }
    })();
    const until = Date.now() + minutes * 60_000;
    while (Date.now() < until && !failure) {
      await delay(2000 + random() * betweenMs);
      const which = Math.floor(random() * count);
      await servers[which].kill("SIGKILL");
      kills++;
      await delay(random() * downMs);
      await start(which, ports[which]);
      if (kills % compareEvery === 0) failure = await compare(servers[which], acknowledged, beganMs);
      failure ??= tooLong(longestMs, pages);
      if (kills % compareEvery === 0 || failure)
        say(`${kills} kills, ${acknowledged.size} acknowledged samples${failure ? "" : ": none lost, none doubled"}`);
    }
    isOver = true;
    await sending;
    failure ??= await compare(servers[0], acknowledged, beganMs);
    say(`${kills} kills; the longest without anything taken: ${(longestMs / 1000).toFixed(1)} s`);
    say(`the longest that one of ${askedPages} pages was not asked: ${(unaskedMs(pages) / 1000).toFixed(1)} s`);
  } catch (error) {
    failure = String(error.stack ?? error);
  } finally {
    isOver = true;
    await sending;
    for (const server of servers) await server.stop();
    await cluster.stop("immediate");
    for (const { server } of pages) server.close();
  }
  if (!failure) return 0;
  say(`FAILED (seed ${seed}): ${failure}\n\n${servers.map((server) => server.said().slice(-2000)).join("\n")}`);
  return 1;
}

function startOne(url, folder, port) {
  return startServerProcess(url, {
    env: {
      NUBREL_SEVERAL_SERVERS: "yes",
      NUBREL_PORT: String(port),
      NUBREL_MACHINE: "vault",
      NUBREL_KEY_FILE: join(folder, "key"),
    },
  });
}

const unaskedMs = (pages) => Math.max(...pages.map((page) => page.longestMs()));

/** What nobody did for too long; undefined where that is nothing. */
function tooLong(untakenMs, pages) {
  if (unaskedMs(pages) > askedAgainMs) return `for ${Math.round(unaskedMs(pages) / 1000)} s a page was asked by nobody`;
  if (untakenMs > takesAgainMs) return `for ${Math.round(untakenMs / 1000)} s nothing was taken`;
  return undefined;
}

async function ask(server, method, path, body, cookie = "") {
  return await fetch(server.address + path, {
    method,
    headers: { origin: server.address, cookie, "content-type": "application/json" },
    ...(body !== undefined && { body: JSON.stringify(body) }),
  });
}

/** A page that notes how long nobody asked it, at the most. */
async function countingPage() {
  let [askedMs, longestMs] = [undefined, 0];
  const server = createServer((_request, response) => {
    const now = performance.now();
    if (askedMs !== undefined) longestMs = Math.max(longestMs, now - askedMs);
    askedMs = now;
    response.setHeader("content-type", "text/plain; version=0.0.4");
    response.end("# TYPE visits gauge\nvisits 1\n");
  });
  await new Promise((resolve) => server.listen(0, "127.0.0.1", resolve));
  return { server, longestMs: () => Math.max(longestMs, askedMs === undefined ? 0 : performance.now() - askedMs) };
}

/** Makes the owner, the pages' sources, and a source that is sent; the answer is that one's token. */
async function tokenOf(server, pages) {
  const made = await ask(server, "POST", "/api/setup", { code: server.setupCode, name: "Ines", password });
  const cookie = made.headers.get("set-cookie").split(";")[0];
  for (const [at, page] of pages.entries()) {
    const address = { scheme: "http", host: "127.0.0.1", port: page.server.address().port, path: "/" };
    const settings = { kind: "pull", name: `page ${at}`, machine: `page ${at}`, intervalMs: 1000, address };
    if ((await ask(server, "POST", "/api/sources", settings, cookie)).status !== 201)
      throw new Error("a page could not be made a source");
  }
  const source = { kind: "push", name: "lamp", machine: "lamp", intervalMs: 1000 };
  const { id } = await (await ask(server, "POST", "/api/sources", source, cookie)).json();
  const of = { name: "lamp", scope: "write", sourceId: id };
  return (await (await ask(server, "POST", "/api/tokens", of, cookie)).json()).token;
}

async function push(address, token, n, atMs) {
  const answer = await fetch(`${address}/api/push/openmetrics`, {
    ...{ method: "POST", body: `lamp_count ${n} ${atMs}\n`, signal: AbortSignal.timeout(5000) },
    headers: { authorization: `Bearer ${token}`, "content-type": "text/plain" },
  });
  return answer.status === 200;
}

/** What is wrong with what is stored, as any server tells it; undefined where nothing is. */
async function compare(server, acknowledged, beganMs) {
  const wanted = [...acknowledged]; // what was acknowledged before it is asked
  const stored = new Set();
  const until = Date.now() + 30_000;
  for (;;) {
    const answer = await readAll(server, beganMs, Math.max(...wanted) + 1).catch(() => undefined);
    if (answer) {
      for (const n of answer) {
        if (stored.has(n)) return `${n} is there twice`;
        stored.add(n);
      }
      const lost = wanted.filter((n) => !stored.has(n));
      if (lost.length === 0) return undefined;
      if (Date.now() > until) return `${lost.length} are lost, ${lost[0]} the first`;
      stored.clear();
    } else if (Date.now() > until) return "no server answered for 30 s";
    await delay(500);
  }
}

/** All values of the first so many milliseconds: one has come in each, at the most. */
async function readAll(server, beganMs, sent) {
  const signedIn = await ask(server, "POST", "/api/session", { name: "Ines", password });
  const cookie = signedIn.headers.get("set-cookie").split(";")[0];
  const asked = async (path) => {
    const answer = await ask(server, "GET", path, undefined, cookie);
    if (answer.status !== 200) throw new Error(String(answer.status));
    return await answer.json();
  };
  const [series] = await asked("/api/counters/lamp_count/series");
  const values = [];
  for (let from = beganMs; from < beganMs + sent; from += mostListed) {
    const path = `/api/series/${series.id}/samples?from=${from}&to=${from + mostListed}&most=${mostListed}`;
    values.push(...(await asked(path)).value);
  }
  return values;
}
