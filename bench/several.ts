import { setTimeout as delay } from "node:timers/promises";
import { request } from "undici";
import { startServerProcess } from "../e2e/support/server-process.mjs";
import { benchDatabase } from "./bench-database.ts";
import { finish, median, report, round } from "./report.ts";
import { agent, processorSeconds } from "./served.ts";

// Several servers on one database, each a process of its own: how far those are behind that stand beside the one that
// leads, and whose processor readings and what is sent take.
const [lines, everyMs, forMs] = [10_000, 200, 20_000];
const readings = 40;
const password = "kestrel on the quay";

const { url, database } = await benchDatabase("bench_several");
const env = { NUBREL_GATHER_MS: "3600000", NUBREL_SEVERAL_SERVERS: "yes" };
const leader = await startServerProcess(url, { env });
const servers = [leader];
let cookie = "";
async function ask(address: string, method: "GET" | "POST", path: string, body?: unknown) {
  const answer = await request(address + path, {
    method,
    dispatcher: agent,
    headers: { origin: address, cookie, ...(body !== undefined && { "content-type": "application/json" }) },
    ...(body !== undefined && { body: JSON.stringify(body) }),
  });
  cookie = String(answer.headers["set-cookie"] ?? cookie).split(";")[0] as string;
  return { status: answer.statusCode, body: JSON.parse(await answer.body.text()) };
}
const pageOf = (turn: number) =>
  `# TYPE load_level gauge\n${Array.from({ length: lines }, (_, i) => `load_level{n="${i}"} ${(i % 97) + turn}\n`).join("")}`;
try {
  await ask(leader.address, "POST", "/api/setup", { code: leader.setupCode, name: "Ines", password });
  const source = { kind: "push", name: "load", machine: "load", intervalMs: 1000 };
  const { id } = (await ask(leader.address, "POST", "/api/sources", source)).body;
  const of = { name: "load", scope: "write", sourceId: id };
  const { token } = (await ask(leader.address, "POST", "/api/tokens", of)).body;
  const pages = [0, 1, 2, 3].map(pageOf);
  const push = async (turn: number, to: typeof leader) => {
    const answer = await request(`${to.address}/api/push/openmetrics`, {
      method: "POST",
      dispatcher: agent,
      headers: { authorization: `Bearer ${token}`, "content-type": "text/plain; version=0.0.4" },
      body: pages[turn % pages.length] as string,
    });
    const text = await answer.body.text();
    if (answer.statusCode !== 200 || JSON.parse(text).taken !== lines)
      throw new Error(`a push was answered ${answer.statusCode}: ${text}`);
  };
  await push(0, leader);
  servers.push(await startServerProcess(url, { env }));
  const [, beside] = servers as [typeof leader, typeof leader];
  await delay(6000);

  /** 50,000 samples a second, sent to one of them; the shares of a core that each takes. */
  const loaded = async (to: typeof leader) => {
    const before = servers.map(({ pid }) => processorSeconds(pid as number));
    const behind: number[] = [];
    const began = performance.now();
    const looking = (async () => {
      while (performance.now() - began < forMs) {
        await delay(2500);
        const { servers: told } = (await ask(leader.address, "GET", "/api/condition")).body;
        const ms = told.find((one: { leads: boolean }) => !one.leads)?.behindMs;
        if (typeof ms === "number") behind.push(ms);
      }
    })();
    const sending: Promise<void>[] = [];
    for (let turn = 1; performance.now() - began < forMs; turn++) {
      await delay(Math.max(0, began + turn * everyMs - performance.now()));
      sending.push(push(turn, to));
    }
    await Promise.all([...sending, looking]);
    const tookMs = performance.now() - began;
    const [led = 0, followed = 0] = servers.map(
      ({ pid }, i) => (processorSeconds(pid as number) - (before[i] as number)) / (tookMs / 1000),
    );
    return { behindMs: median(behind), rate: (sending.length * lines) / (tookMs / 1000), led, followed };
  };
  const { behindMs, rate, led, followed } = await loaded(leader);
  const said = `${Math.round(rate).toLocaleString("en")} samples a second; the one that leads takes ${round(led * 100)} % of a core, one that follows ${round(followed * 100)} %`;
  report("a second server behind the one that leads, the most of 5 s", behindMs, "ms", { atMost: 300 }, said);
  const there = await loaded(beside);
  report(
    "samples that another server takes, of what they take of the one that leads where they are sent to it",
    (there.led / led) * 100,
    "%",
    { atMost: 60 },
    `${Math.round(there.rate).toLocaleString("en")} samples a second; the one that leads takes ${round(there.led * 100)} % of a core, the one that is sent them ${round(there.followed * 100)} %`,
  );

  // Readings of 1,000 series over a minute, asked of the one that leads and of one that stands beside it.
  const now = Date.now();
  const reading = {
    window: { from: now - 60_000, to: now },
    step: 1,
    sentences: {
      a: {
        counter: "load_level",
        lines: "each",
        where: [{ tag: "n", is: Array.from({ length: 300 }, (_, i) => `${i}`) }],
      },
    },
  };
  const secondsEach = async (of: typeof leader) => {
    const from = servers.map(({ pid }) => processorSeconds(pid as number));
    for (let i = 0; i < readings; i++) {
      const { status } = await ask(of.address, "POST", "/api/readings", reading);
      if (status !== 200) throw new Error(`a reading was answered ${status}`);
    }
    return servers.map(({ pid }, i) => (processorSeconds(pid as number) - (from[i] as number)) / readings);
  };
  await secondsEach(leader);
  await secondsEach(beside);
  const [own = 0] = await secondsEach(leader);
  const [ofLeader = 0, ofBeside = 0] = await secondsEach(beside);
  report("a reading asked of another server, taken of the one that leads", (ofLeader / own) * 100, "%", { atMost: 5 });
  // Machines of their own for each are not at hand: what three answer is worked out from the processor time that each has
  // left beside following.
  report(
    "readings that three servers answer for one, by processor time",
    1 + (2 * (1 - followed) * own) / ofBeside,
    "times",
    { atLeast: 2.5 },
    `${round(own * 1000)} ms each where it leads, ${round(ofBeside * 1000)} ms beside it; calculated, of a core for each`,
  );
} finally {
  for (const server of servers.toReversed()) await server.stop();
  await database.end();
}
finish();
