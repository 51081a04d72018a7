import { type ChildProcess, spawn } from "node:child_process";
import { X509Certificate } from "node:crypto";
import {
  existsSync,
  mkdirSync,
  mkdtempSync,
  readdirSync,
  readFileSync,
  rmSync,
  symlinkSync,
  writeFileSync,
} from "node:fs";
import { createServer, type IncomingMessage, type RequestListener } from "node:http";
import { createServer as createTlsServer } from "node:https";
import type { AddressInfo, Server } from "node:net";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { afterAll, afterEach, beforeAll, describe, expect, test } from "vitest";
import { projectRoot } from "../project-root.ts";
import { issueCertificate, type KeyPair, makeAuthority } from "../transport/issue-certificate.ts";
import { pinOf } from "../transport/transport.ts";

// The collector against real fetchers (curl, GNU wget, busybox's wget) and a server that answers as told.
const token = "nub_made_up";
const day = 86_400_000;
let folder: string;
let authority: KeyPair;
let stranger: KeyPair;
let state = "";
const started: ChildProcess[] = [];
const servers: Server[] = [];

const fetchers: Readonly<Record<string, string>> = {
  curl: "/usr/bin/curl",
  "GNU wget": "/usr/bin/wget",
  "busybox wget": "/bin/busybox",
};
const there = Object.entries(fetchers)
  .filter(([, path]) => existsSync(path))
  .map(([name]) => name);

beforeAll(async () => {
  folder = mkdtempSync(join(tmpdir(), "nubrel-sending-"));
  const now = Date.now();
  authority = await makeAuthority("House of the quay", new Date(now - day), new Date(now + 30 * day));
  stranger = await makeAuthority("Another house", new Date(now - day), new Date(now + 30 * day));
  for (const name of there) {
    const bin = join(folder, name);
    mkdirSync(bin);
    for (const from of ["/usr/bin", "/bin"])
      for (const tool of readdirSync(from))
        if (!/^(curl|wget)$/.test(tool) && !existsSync(join(bin, tool))) symlinkSync(join(from, tool), join(bin, tool));
    symlinkSync(fetchers[name] as string, join(bin, name === "curl" ? "curl" : "wget"));
  }
  mkdirSync(join(folder, "proc"));
  writeFileSync(join(folder, "proc/uptime"), "100.00 50.00\n");
  writeFileSync(join(folder, "proc/loadavg"), "0.10 0.20 0.30 1/100 4242\n");
});
afterEach(async () => {
  for (const child of started.splice(0)) await ended(child);
  for (const server of servers.splice(0)) server.close();
  rmSync(state, { recursive: true, force: true });
});
afterAll(() => rmSync(folder, { recursive: true, force: true }));

function ended(child: ChildProcess): Promise<void> {
  if (child.exitCode !== null || child.signalCode !== null) return Promise.resolve();
  return new Promise((resolve) => {
    child.once("exit", () => resolve());
    child.kill("SIGTERM");
  });
}

/** A server that takes note of what comes, and answers each request as told. */
async function serving(
  status: (request: IncomingMessage, body: string) => number,
  pair?: KeyPair,
): Promise<{
  readonly port: number;
  readonly seen: {
    readonly token: string | undefined;
    readonly agent: string | undefined;
    readonly status: number;
    readonly body: string;
  }[];
}> {
  const seen: { token: string | undefined; agent: string | undefined; status: number; body: string }[] = [];
  const listener: RequestListener = (request, response) => {
    const pieces: Buffer[] = [];
    request.on("data", (piece) => pieces.push(piece));
    request.on("end", () => {
      const body = Buffer.concat(pieces).toString("latin1");
      const code = status(request, body);
      const { authorization, "user-agent": agent } = request.headers;
      seen.push({ token: authorization, agent, status: code, body });
      response
        .writeHead(code, { "content-type": "application/problem+json" })
        .end(JSON.stringify({ title: "t", detail: `told with ${code}` }));
    });
  };
  const server = pair
    ? createTlsServer({ cert: pair.certificatePem, key: pair.keyPem }, listener)
    : createServer(listener);
  servers.push(server);
  await new Promise<void>((resolve) => server.listen(0, "127.0.0.1", resolve));
  return { port: (server.address() as AddressInfo).port, seen };
}

let states = 0;

/** Runs the collector as it is handed out, with this fetcher alone. */
function collecting(
  fetcher: string,
  address: string,
  { pem = "", pin = "", own = join(folder, `state-${states++}`) } = {},
): { readonly said: () => string; readonly child: ChildProcess; readonly state: string } {
  state = own;
  const script = join(folder, "nubrel-collector");
  writeFileSync(
    script,
    readFileSync(join(projectRoot, "collector/nubrel-collector.sh"), "utf8")
      .replace("@ADDRESS@", address)
      .replace("@TOKEN@", token)
      .replace("@INTERVAL@", "1")
      .replace("@PIN@", pin)
      .replace("@VERSION@", "9.8.7")
      .replace("@AUTHORITY@", pem.trim()),
  );
  const child = spawn("/bin/sh", [script, "run"], {
    env: {
      PATH: join(folder, fetcher),
      NUBREL_STATE: own,
      NUBREL_PROC: join(folder, "proc"),
      NUBREL_SYS: join(folder, "proc"),
      NUBREL_SLOW_EVERY: "1000",
      NUBREL_DRIVES_EVERY: "1000",
    },
  });
  started.push(child);
  let said = "";
  child.stderr.on("data", (data) => (said += data));
  return { said: () => said, child, state: own };
}
const waiting = (of: string) => (existsSync(join(of, "spool")) ? readdirSync(join(of, "spool")).length : 0);

describe.each(there)("%s", (fetcher) => {
  test("sends with the token, and over a page that is taken nothing is said", async () => {
    const { port, seen } = await serving(() => 200);
    const { said, state } = collecting(fetcher, `http://127.0.0.1:${port}`);
    await expect.poll(() => seen.length, { timeout: 10_000 }).toBeGreaterThan(0);
    expect(seen[0]).toMatchObject({ token: `Bearer ${token}`, agent: "nubrel-collector/9.8.7" });
    await expect.poll(() => waiting(state)).toBe(0);
    expect(said().trim().split("\n")).toHaveLength(1);
  });
  test.each([
    [401, "the token is not known"],
    [404, "does not take it (404"],
    [409, "this source is paused"],
    [421, "does not take it (421"],
    [429, "cannot take it now (429)"],
    [503, "cannot take it now (503"],
  ])("what may be taken later is kept, with its reason: %i", async (status, words) => {
    const { port } = await serving(() => status);
    const { said, state } = collecting(fetcher, `http://127.0.0.1:${port}`);
    await expect.poll(said, { timeout: 10_000 }).toContain(words);
    expect(said()).toContain("what was gathered is kept");
    expect(waiting(state)).toBeGreaterThan(0);
  });
  test.each([400, 413, 422])("a page that is refused for good (%i) is dropped with its reason", async (status) => {
    const { port, seen } = await serving(() => status);
    const { said, state } = collecting(fetcher, `http://127.0.0.1:${port}`);
    await expect.poll(said, { timeout: 10_000 }).toContain(`refused a page for good, it is dropped (${status}`);
    // that one keeps the answer to itself
    if (fetcher !== "busybox wget") expect(said()).toContain(`told with ${status}`);
    expect(said()).not.toContain("is kept");
    await expect.poll(() => waiting(state)).toBe(0);
    expect(seen.length).toBeGreaterThan(0);
  });
  test("of several pages that wait, only the one that is refused is dropped", async () => {
    const own = join(folder, "several");
    mkdirSync(join(own, "spool"), { recursive: true });
    for (const [i, text] of ["good_one 1 1000", "bad 1 2000", "good_two 1 3000"].entries())
      writeFileSync(join(own, `spool/00000000000${i}000.page`), `${text}\n`);
    const { port, seen } = await serving((request, body) =>
      request.headers["content-encoding"] === "gzip" ? 415 : /bad/.test(body) ? 422 : 200,
    );
    rmSync(join(folder, fetcher, "gzip"), { force: true }); // so that the bodies can be read here
    const { said } = collecting(fetcher, `http://127.0.0.1:${port}`, { own });
    await expect.poll(said, { timeout: 10_000 }).toContain("refused a page for good");
    await expect.poll(() => waiting(own)).toBe(0);
    const taken = seen.filter(({ status }) => status === 200).map(({ body }) => body);
    expect(taken.filter((body) => body.includes("good_one"))).toHaveLength(1);
    expect(taken.filter((body) => body.includes("good_two"))).toHaveLength(1);
    expect(taken.some((body) => body.includes("bad"))).toBe(false);
  });
  test("nobody who listens and a name that is not known are told", async () => {
    const nobody = collecting(fetcher, "http://127.0.0.1:1");
    await expect
      .poll(nobody.said, { timeout: 10_000 })
      .toContain("nothing listens at http://127.0.0.1:1; what was gathered is kept");
    await ended(nobody.child);
    const unknown = collecting(fetcher, "http://studio.invalid");
    await expect.poll(unknown.said, { timeout: 10_000 }).toContain("no address is known for the name");
  });

  const checks = fetcher !== "busybox wget";
  const tls = async (names: readonly string[], issuer: () => KeyPair) =>
    await issueCertificate(issuer(), names, new Date(Date.now() - day), new Date(Date.now() + day));
  test.runIf(checks)("takes the server's own authority, and no other", async () => {
    const { port, seen } = await serving(() => 200, await tls(["localhost"], () => authority));
    collecting(fetcher, `https://localhost:${port}`, { pem: authority.certificatePem });
    await expect.poll(() => seen.length, { timeout: 10_000 }).toBeGreaterThan(0);
    const other = await serving(() => 200, await tls(["localhost"], () => stranger));
    const { said } = collecting(fetcher, `https://localhost:${other.port}`, { pem: authority.certificatePem });
    await expect.poll(said, { timeout: 10_000 }).toContain("is not trusted here");
    expect(other.seen).toEqual([]);
  });
  test.runIf(checks)("tells a wrong name apart", async () => {
    const { port, seen } = await serving(() => 200, await tls(["elsewhere.quay"], () => authority));
    const { said } = collecting(fetcher, `https://localhost:${port}`, { pem: authority.certificatePem });
    await expect.poll(said, { timeout: 10_000 }).toContain("wrong name");
    expect(seen).toEqual([]);
  });
  test.runIf(checks)("a pin is held: another key gets nothing", async () => {
    const pair = await tls(["localhost"], () => authority);
    const { port, seen } = await serving(() => 200, pair);
    const pin = `sha256//${pinOf(new X509Certificate(pair.certificatePem)).replace(/^sha256\/\//, "")}`;
    collecting(fetcher, `https://localhost:${port}`, { pin });
    await expect.poll(() => seen.length, { timeout: 10_000 }).toBeGreaterThan(0);
    const other = await serving(() => 200, await tls(["localhost"], () => authority));
    const { said } = collecting(fetcher, `https://localhost:${other.port}`, { pin });
    await expect.poll(said, { timeout: 10_000 }).toContain("is another than when this collector was made");
    expect(other.seen).toEqual([]);
  });
  test.runIf(!checks)("which checks no certificate sends nothing over https, and says so", async () => {
    const { port, seen } = await serving(() => 200, await tls(["localhost"], () => authority));
    const { said, state } = collecting(fetcher, `https://localhost:${port}`, { pem: authority.certificatePem });
    await expect
      .poll(said, { timeout: 10_000 })
      .toContain("checks no certificate, so nothing is sent over https. Install curl or GNU wget");
    expect(seen).toEqual([]);
    expect(waiting(state)).toBeGreaterThan(0);
  });
});

test("it runs once: a second ends by itself, and says which runs", async () => {
  const first = collecting(there[0] as string, "http://127.0.0.1:1");
  await expect.poll(first.said, { timeout: 10_000 }).toContain("nothing listens");
  const second = collecting(there[0] as string, "http://127.0.0.1:1", { own: first.state });
  await expect.poll(() => second.child.exitCode, { timeout: 5000 }).toBe(0);
  expect(second.said()).toContain(`it runs already, as process ${first.child.pid}`);
  expect(first.child.exitCode).toBeNull();
  // One whose number was left behind is no hindrance.
  await ended(first.child);
  writeFileSync(join(first.state, "pid"), String(process.pid));
  const third = collecting(there[0] as string, "http://127.0.0.1:1", { own: first.state });
  await expect.poll(third.said, { timeout: 10_000 }).toContain("gathering every 1 s");
});

test.skipIf(process.getuid?.() !== 0)(
  "installed twice it runs once, with the new token at once; removed, nothing of it is left",
  async () => {
    const { port, seen } = await serving(() => 200);
    const own = join(folder, "installed");
    const place = join(folder, "place");
    state = own;
    const bin = join(folder, "bare");
    mkdirSync(bin);
    for (const tool of readdirSync(join(folder, there[0] as string)))
      if (!/^(systemctl|crontab)$/.test(tool)) symlinkSync(join(folder, there[0] as string, tool), join(bin, tool));
    const command = async (word: string, withToken: string) => {
      const script = join(folder, `fetched-${withToken}`);
      writeFileSync(
        script,
        readFileSync(join(projectRoot, "collector/nubrel-collector.sh"), "utf8")
          .replace("@ADDRESS@", `http://127.0.0.1:${port}`)
          .replace("@TOKEN@", withToken)
          .replace("@INTERVAL@", "1")
          .replace("@PIN@", "")
          .replace("@AUTHORITY@", ""),
      );
      const child = spawn("/bin/sh", [script, word], {
        env: {
          PATH: bin,
          NUBREL_STATE: own,
          NUBREL_PLACE: place,
          NUBREL_PROC: join(folder, "proc"),
          NUBREL_SYS: join(folder, "proc"),
          NUBREL_SLOW_EVERY: "1000",
          NUBREL_DRIVES_EVERY: "1000",
        },
        stdio: "ignore",
      });
      await new Promise((resolve) => child.once("exit", resolve));
    };
    const running = () =>
      readdirSync("/proc")
        .filter((pid) => /^\d+$/.test(pid))
        .filter((pid) => {
          try {
            return readFileSync(`/proc/${pid}/cmdline`, "utf8").includes(`${place}/nubrel-collector\0run`);
          } catch {
            return false; // ended meanwhile
          }
        });
    // Pieces of itself that send or wait have its name, too: those that it was started as have its own number.
    const main = () => readFileSync(join(own, "pid"), "utf8").trim();
    await command("install", "nub_first");
    await expect.poll(() => seen.some(({ token }) => token === "Bearer nub_first"), { timeout: 10_000 }).toBe(true);
    const first = main();
    await command("install", "nub_second");
    await expect.poll(() => seen.at(-1)?.token, { timeout: 10_000 }).toBe("Bearer nub_second");
    expect(main()).not.toBe(first);
    expect(running()).not.toContain(first);
    const since = seen.length;
    await expect.poll(() => seen.length, { timeout: 40_000 }).toBeGreaterThan(since + 1);
    expect(new Set(seen.slice(since).map(({ token }) => token))).toEqual(new Set(["Bearer nub_second"]));
    await command("remove", "nub_second");
    await expect.poll(() => running(), { timeout: 5000 }).toEqual([]);
    expect([existsSync(own), existsSync(place)]).toEqual([false, false]);
  },
  90_000,
);
