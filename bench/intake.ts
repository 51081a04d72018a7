import { execFile, spawn } from "node:child_process";
import { once } from "node:events";
import { mkdtempSync, readFileSync, rmSync } from "node:fs";
import { createServer } from "node:http";
import type { AddressInfo } from "node:net";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { setTimeout as delay } from "node:timers/promises";
import { promisify } from "node:util";
import { request } from "undici";
import { PageReader } from "../core/formats/exposition/page-reader.ts";
import { agent, processorSeconds, serve } from "./served.ts";
import { finish, median, report, round } from "./report.ts";

// What taking in costs over the real protocols: the built server as a process of its own, senders and pages in this
// one.
const pageOf = (lines: number, turn: number) => {
  const parts: string[] = [];
  for (let i = 0; i < lines; i++) {
    if (i % 50 === 0)
      parts.push(
        `# HELP relay_family_${i / 50}_bytes Bytes that the relay sent, by listener.\n# TYPE relay_family_${i / 50}_bytes ${i % 100 === 0 ? "counter" : "gauge"}\n`,
      );
    parts.push(
      `relay_family_${Math.floor(i / 50)}_bytes{listener="10.0.3.${i % 50}:8000",site="studio"} ${i * 1_048_576 + turn * 4096}\n`,
    );
  }
  return new TextEncoder().encode(parts.join(""));
};

/** A program that reads bodies to their end and answers as a push is answered. */
const discard = (taken: number) =>
  `require("node:http").createServer((asked, answer) => asked.resume().on("end", () => answer.end('{"taken":${taken}}'))).listen(0, "127.0.0.1", function () { console.log(this.address().port) })`;

// 200 sources of 1,000 series, asked every 5 s.
{
  const { server, ask } = await serve("pulled");
  const sources = 200;
  const everyMs = 5000;
  let turn = 0;
  const pages = Array.from({ length: 4 }, (_, i) => pageOf(1000, i));
  const served = createServer((_request, response) => response.end(pages[turn++ % pages.length])).listen(
    0,
    "127.0.0.1",
  );
  await once(served, "listening");
  const { port } = served.address() as AddressInfo;
  for (let i = 0; i < sources; i++) {
    const made = await ask("POST", "/api/sources", {
      kind: "pull",
      name: `pulled ${i}`,
      machine: `p${i}`,
      intervalMs: everyMs,
      address: { host: "127.0.0.1", port },
    });
    if (made.status !== 201) throw new Error(JSON.stringify(made.body));
  }
  for (;;) {
    const all = (await ask("GET", "/api/sources")).body as { kind: string; taken: number | null }[];
    if (all.every(({ kind, taken }) => kind !== "pull" || taken === 1000)) break;
    await delay(1000);
  }
  await delay(5000);
  const before = processorSeconds(server.pid);
  const began = performance.now();
  await delay(30_000);
  const share = (processorSeconds(server.pid) - before) / ((performance.now() - began) / 1000);
  const memory = Number(/VmRSS:\s+(\d+)/.exec(readFileSync(`/proc/${server.pid}/status`, "utf8"))?.[1]) / 1024;
  const all = (await ask("GET", "/api/sources")).body as { kind: string; state: string }[];
  const reporting = all.filter(({ kind, state }) => kind === "pull" && state === "reporting").length;
  if (reporting !== sources) throw new Error(`${reporting} of ${sources} report`);
  report(
    "200 pulled sources of 1,000 series every 5 s, processor",
    share * 100,
    "% of a core",
    { atMost: 20 },
    `${((sources * 1000) / (everyMs / 1000)).toLocaleString("en")} samples a second`,
  );
  report("the same, memory", memory, "MB", { atMost: 550 });
  served.close();
  served.closeAllConnections();
  await server.stop();
}
// Pushes of 10,000 lines of known series, acknowledged when durable; eight senders at once, as real ones do not wait
// for one another.
{
  const { server, ask } = await serve("pushed");
  const lines = 10_000;
  const senders = 8;
  const pages = Array.from({ length: 4 }, (_, turn) => pageOf(lines, turn));
  const tokens = await Promise.all(
    Array.from({ length: senders }, async (_, i) => {
      const source = await ask("POST", "/api/sources", {
        kind: "push",
        name: `sender ${i}`,
        machine: `m${i}`,
        intervalMs: 60_000,
      });
      return (await ask("POST", "/api/tokens", { name: `sender ${i}`, scope: "write", sourceId: source.body.id })).body
        .token as string;
    }),
  );
  const push = async (token: string, turn: number, address = server.address) => {
    const answer = await request(`${address}/api/push/openmetrics`, {
      method: "POST",
      dispatcher: agent,
      headers: { authorization: `Bearer ${token}`, "content-type": "text/plain; version=0.0.4" },
      body: pages[turn % pages.length] as Uint8Array,
    });
    const { taken } = (await answer.body.json()) as { taken: number };
    if (answer.statusCode !== 200 || taken !== lines)
      throw new Error(`a push was answered ${answer.statusCode}, ${taken} taken`);
  };
  const reader = new PageReader("text");
  const alone = () => {
    const began = performance.now();
    for (let i = 0; i < 8; i++) reader.read(pages[i % pages.length] as Uint8Array);
    return (performance.now() - began) / 8;
  };
  const pushed = async (each: number, address?: string) => {
    const began = performance.now();
    await Promise.all(
      tokens.map(async (token) => {
        for (let i = 0; i < each; i++) await push(token, i, address);
      }),
    );
    return (performance.now() - began) / (each * senders);
  };
  await pushed(40);
  for (let i = 0; i < 4; i++) alone();
  const rounds = [];
  // The floor: a process that takes the same bodies and does nothing with them.
  const discarding = spawn(process.execPath, ["-e", discard(lines)], { stdio: ["ignore", "pipe", "inherit"] });
  const floor = `http://127.0.0.1:${String(await once(discarding.stdout, "data")).trim()}`;
  try {
    await pushed(40, floor);
    for (let i = 0; i < 5; i++)
      rounds.push({ alone: alone(), pushed: await pushed(30), discarded: await pushed(30, floor) });
  } finally {
    discarding.kill();
  }
  report(
    "parsed and received by a process that does nothing else, against the parser alone",
    median(rounds.map((one) => (one.alone / (one.alone + one.discarded)) * 100)),
    "%",
    {},
  );
  const ours = median(rounds.map((one) => one.pushed));
  report(
    "push over HTTP of 10,000 lines, durable, against the parser alone",
    median(rounds.map((one) => (one.alone / one.pushed) * 100)),
    "%",
    // The parser took half as long again when this was half of it.
    { atLeast: 22 },
    `${round(lines / ours / 1000)} million samples a second; the parser alone ${round(lines / median(rounds.map((one) => one.alone)) / 1000)}`,
  );

  // Somebody who sends garbage as fast as it is answered, with a token and without, beside a sender that goes on.
  const steady = async (count: number) => {
    const times: number[] = [];
    for (let i = 0; i < count; i++) {
      const began = performance.now();
      await push(tokens[0] as string, i);
      times.push(performance.now() - began);
      await delay(50);
    }
    return median(times);
  };
  const garbage = new Uint8Array(100_000).map((_, i) => (i * 7919) % 251);
  let going = true;
  let sent = 0;
  const litter = async (authorization: string) => {
    while (going) {
      await request(`${server.address}/api/push/openmetrics`, {
        method: "POST",
        dispatcher: agent,
        headers: { authorization },
        body: garbage,
      }).then(
        (answer) => answer.body.dump(),
        () => {},
      );
      sent++;
    }
  };
  const calm = await steady(30);
  const litterers = [litter(`Bearer ${tokens[1]}`), litter("Bearer nub_nobody")];
  await delay(500);
  const beside = await steady(60);
  going = false;
  await Promise.all(litterers);
  report(
    "a push beside somebody who sends garbage",
    (beside / calm - 1) * 100,
    "% slower",
    { atMost: 10 },
    `${round(calm)} ms alone, ${round(beside)} ms beside ${sent} pieces of garbage`,
  );
  await server.stop();
}

// The collector as it runs on a machine, sending included: processor time of the shell and all that it starts, by the
// shell's own account.
{
  const { server, ask } = await serve("collected");
  const source = await ask("POST", "/api/sources", {
    kind: "collector",
    name: "hive",
    machine: "hive",
    intervalMs: 5000,
  });
  const { token } = (await ask("POST", "/api/tokens", { name: "hive", scope: "write", sourceId: source.body.id })).body;
  const state = mkdtempSync(join(tmpdir(), "nubrel-collector-"));
  const seconds = 40;
  const { stdout } = await promisify(execFile)(
    "sh",
    ["-c", `timeout ${seconds} sh collector/nubrel-collector.sh run; times`],
    {
      env: {
        ...process.env,
        NUBREL_ADDRESS: server.address,
        NUBREL_TOKEN: token,
        NUBREL_INTERVAL: "5",
        NUBREL_STATE: state,
      },
    },
  );
  const spent = [...stdout.matchAll(/(\d+)m([\d.]+)s/g)].reduce(
    (sum, [, minutes, s]) => sum + Number(minutes) * 60 + Number(s),
    0,
  );
  const { taken } = (await ask("GET", `/api/sources/${source.body.id}`)).body as { taken: number | null };
  if (!taken) throw new Error("the collector's values did not arrive");
  report(
    "the collector at 5 s",
    (spent / seconds) * 100,
    "% of a core",
    { atMost: 1 },
    `${taken} values in its last batch`,
  );
  rmSync(state, { recursive: true, force: true });
  await server.stop();
}
await agent.destroy();
finish();
