import { type ChildProcess, execFileSync, spawn } from "node:child_process";
import {
  chmodSync,
  cpSync,
  existsSync,
  mkdirSync,
  mkdtempSync,
  readdirSync,
  readFileSync,
  rmSync,
  statSync,
  writeFileSync,
} from "node:fs";
import { createServer, type Server } from "node:net";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { afterAll, beforeAll, describe, expect, test } from "vitest";
import { migrate } from "../server/db/migrate.ts";
import { testDatabase } from "../server/testing/test-database.ts";

const root = new URL("..", import.meta.url).pathname;
let folder: string;
let data: string;
let port: number;
const running: ChildProcess[] = [];

beforeAll(async () => {
  folder = mkdtempSync(join(tmpdir(), "nubrel-start-"));
  chmodSync(folder, 0o711);
  data = join(folder, "data");
  port = await new Promise<number>((resolve) => {
    const probe = createServer().listen(0, "127.0.0.1", () => {
      const { port: free } = probe.address() as { port: number };
      probe.close(() => resolve(free));
    });
  });
});
afterAll(async () => {
  for (const child of running) if (child.exitCode === null && child.signalCode === null) await ended(child, "SIGTERM");
  rmSync(folder, { recursive: true, force: true });
});

interface Started {
  readonly child: ChildProcess;
  readonly said: () => string;
}

function start(env: Record<string, string> = {}): Started {
  const child = spawn(process.execPath, [join(root, "scripts/start.mjs")], {
    cwd: root,
    env: { ...process.env, NUBREL_DATA: data, NUBREL_PORT: String(port), NUBREL_DATABASE_URL: "", ...env },
    stdio: ["ignore", "pipe", "pipe"],
  });
  running.push(child);
  let text = "";
  child.stdout?.on("data", (part) => {
    text += part;
  });
  child.stderr?.on("data", (part) => {
    text += part;
  });
  return { child, said: () => text };
}

/** The exit code once the process has ended. */
function ended(child: ChildProcess, signal?: NodeJS.Signals): Promise<number | null> {
  const end =
    child.exitCode !== null || child.signalCode !== null
      ? Promise.resolve(child.exitCode)
      : new Promise<number | null>((resolve) => child.once("exit", resolve));
  if (signal) child.kill(signal);
  return end;
}

function childrenOf(pid: number): readonly number[] {
  return readFileSync(`/proc/${pid}/task/${pid}/children`, "utf8").trim().split(" ").map(Number);
}

const serves = (one: Started) =>
  expect.poll(one.said, { timeout: 60_000 }).toContain(`Nubrel is at http://127.0.0.1:${port}`);
const health = async () => (await fetch(`http://127.0.0.1:${port}/api/health`)).json();
const databaseRuns = () => existsSync(join(data, "postgres/postmaster.pid"));

describe("npm start", () => {
  test("makes its database, serves, prints the code; Ctrl+C stops all of it", async () => {
    const first = start();
    await serves(first);
    expect(first.said()).toMatch(/Set-up code: [a-z0-9]{5}-[a-z0-9]{5}/);
    expect(statSync(join(data, "postgres-password")).mode & 0o777).toBe(0o600);
    await expect.poll(async () => (await health()).lastSampleAt, { timeout: 15_000 }).toBeGreaterThan(0);
    const [pid] = readFileSync(join(data, "postgres/postmaster.pid"), "utf8").split("\n");
    if (process.getuid?.() === 0) expect(statSync(`/proc/${pid}`).uid).not.toBe(0);

    const code = /Set-up code: (\S+)/.exec(first.said())?.[1];
    const made = await fetch(`http://127.0.0.1:${port}/api/setup`, {
      method: "POST",
      headers: { "Content-Type": "application/json", Origin: `http://127.0.0.1:${port}` },
      body: JSON.stringify({ code, name: "Ines", password: "kestrel on the quay" }),
    });
    expect(made.status).toBe(201);

    const second = start();
    expect(await ended(second.child)).toBe(1);
    expect(second.said()).toContain(`Nubrel already runs with this data, at http://127.0.0.1:${port}`);

    expect(await ended(first.child, "SIGINT")).toBe(0);
    expect(databaseRuns()).toBe(false);
    expect(existsSync(join(data, "running.json"))).toBe(false);
  });

  test("started again, it goes on with its data", async () => {
    const again = start();
    await serves(again);
    expect(again.said()).not.toContain("Set-up code");
    expect(await (await fetch(`http://127.0.0.1:${port}/api/setup`)).json()).toMatchObject({ needed: false });
    // The start command is killed: the server ends by itself, the next start finds the database still running and takes
    // it.
    await ended(again.child, "SIGKILL");
    await expect
      .poll(
        () =>
          fetch(`http://127.0.0.1:${port}/api/health`).then(
            () => "there",
            () => "gone",
          ),
        { timeout: 15_000 },
      )
      .toBe("gone");
    expect(databaseRuns()).toBe(true);
    const third = start();
    await serves(third);
    expect(await ended(third.child, "SIGTERM")).toBe(0);
    expect(databaseRuns()).toBe(false);
  });

  test("PostgreSQL and the server are started again when they were killed, and that is told", async () => {
    const one = start({ NUBREL_LOG: "error" });
    await serves(one);
    const main = () => Number(readFileSync(join(data, "postgres/postmaster.pid"), "utf8").split("\n")[0]);
    process.kill(main(), "SIGKILL");
    await expect.poll(one.said, { timeout: 30_000 }).toContain("PostgreSQL had ended and runs again.");
    await expect.poll(async () => (await health()).status, { timeout: 30_000 }).toBe("ok");
    expect(await (await fetch(`http://127.0.0.1:${port}/api/setup`)).json()).toMatchObject({ needed: false });

    const [server] = childrenOf(one.child.pid as number).filter((pid) =>
      /dist\/server\/start\.js/.test(readFileSync(`/proc/${pid}/cmdline`, "utf8")),
    );
    if (process.getuid?.() === 0) expect(statSync(`/proc/${server}`).uid).not.toBe(0);
    process.kill(server as number, "SIGKILL");
    await expect
      .poll(one.said, { timeout: 30_000 })
      .toContain("The server is gone: it was ended by SIGKILL. It is started again.");
    await expect
      .poll(
        () =>
          health().then(
            ({ status }) => status,
            () => "away",
          ),
        { timeout: 30_000 },
      )
      .toBe("ok");
    expect(await ended(one.child, "SIGINT")).toBe(0);
    expect(databaseRuns()).toBe(false);
  });

  test("a PostgreSQL that does not come up is told with its own last lines", async () => {
    const one = start({ NUBREL_LOG: "error" });
    await serves(one);
    const settings = join(data, "postgres/postgresql.auto.conf");
    const before = readFileSync(settings, "utf8");
    writeFileSync(settings, `${before}\nshared_buffers = 'many'\n`);
    process.kill(Number(readFileSync(join(data, "postgres/postmaster.pid"), "utf8").split("\n")[0]), "SIGKILL");
    await expect
      .poll(one.said, { timeout: 30_000 })
      .toMatch(
        /PostgreSQL does not come up \(try \d\)\. It says:\n\n[\s\S]*invalid value for parameter "shared_buffers": "many"/,
      );
    await expect.poll(async () => (await health()).databaseTries, { timeout: 30_000 }).toBeGreaterThan(0);
    writeFileSync(settings, before);
    await expect.poll(async () => (await health()).status, { timeout: 60_000 }).toBe("ok");
    expect(await ended(one.child, "SIGINT")).toBe(0);
  });

  test("a copy of a folder, taken while it runs, starts a database of its own and leaves the original's alone", async () => {
    const original = start();
    await serves(original);
    const copy = join(folder, "copy");
    execFileSync("cp", ["-a", data, copy]);
    const other = start({ NUBREL_DATA: copy, NUBREL_PORT: "0" });
    await expect.poll(other.said, { timeout: 60_000 }).toContain("Nubrel is at http://127.0.0.1:");
    const mark = (of: string) => readFileSync(join(of, "postgres/postmaster.pid"), "utf8").split("\n");
    expect(mark(copy)[1]).toBe(join(copy, "postgres"));
    expect(mark(copy)[0]).not.toBe(mark(data)[0]);
    expect(await ended(other.child, "SIGINT")).toBe(0);
    expect((await health()).status).toBe("ok");
    expect(await ended(original.child, "SIGINT")).toBe(0);
  });

  test("a taken port gets a sentence, and the database is stopped again", async () => {
    const taker = await new Promise<Server>((resolve) => {
      const server = createServer().listen(port, "127.0.0.1", () => resolve(server));
    });
    const late = start();
    expect(await ended(late.child)).toBe(1);
    expect(late.said()).toContain(`Port ${port} on 127.0.0.1 is taken by another program`);
    expect(databaseRuns()).toBe(false);
    taker.close();
  });

  test("an existing PostgreSQL is used instead where one is named; one that does not answer gets a sentence", async () => {
    const other = start({
      NUBREL_DATA: join(folder, "external"),
      NUBREL_DATABASE_URL: process.env["NUBREL_TEST_DATABASE_URL"] as string,
    });
    await serves(other);
    expect(existsSync(join(folder, "external/postgres"))).toBe(false);
    await ended(other.child, "SIGINT");
    const away = start({ NUBREL_DATA: join(folder, "external"), NUBREL_DATABASE_URL: "postgres://x:y@127.0.0.1:1/z" });
    expect(await ended(away.child)).toBe(1);
    expect(away.said()).toContain("The database does not answer");
  });
});

describe("a newer version", () => {
  test("says what it will change in a database that holds something, and takes a backup first", async () => {
    const old = await testDatabase({ migrated: false });
    const before = join(folder, "migrations");
    cpSync(join(root, "server/db/migrations"), before, { recursive: true });
    rmSync(join(before, readdirSync(before).sort().at(-1) as string));
    await migrate(old.database, before);
    const upgraded = join(folder, "upgraded");
    const one = start({ NUBREL_DATA: upgraded, NUBREL_DATABASE_URL: old.url });
    await serves(one);
    expect(one.said()).toMatch(/This version changes the database, in one step:\n +\d{6} {2}\w/);
    expect(readdirSync(join(upgraded, "before-upgrade"))).toEqual([expect.stringMatching(/^before-\d{6}-.*\.backup$/)]);
    await ended(one.child, "SIGINT");
    const again = start({ NUBREL_DATA: upgraded, NUBREL_DATABASE_URL: old.url });
    await serves(again);
    expect(again.said()).not.toContain("changes the database");
    await ended(again.child, "SIGINT");
    await old.drop();
  });
});

describe("a data folder that cannot be used", () => {
  const refusal = async (path: string) => {
    const one = start({ NUBREL_DATA: path });
    expect(await ended(one.child)).toBe(1);
    expect(one.said()).not.toMatch(/\n\s+at /);
    return one.said();
  };
  test("somebody else's", async () => {
    const foreign = join(folder, "foreign");
    mkdirSync(foreign);
    writeFileSync(join(foreign, "letters.txt"), "");
    expect(await refusal(foreign)).toContain("holds other things (letters.txt) and was not made by Nubrel");
  });
  test("a newer version's", async () => {
    const newer = join(folder, "newer");
    mkdirSync(newer);
    writeFileSync(join(newer, "nubrel.json"), '{"format":99}');
    expect(await refusal(newer)).toContain("made by a newer version of Nubrel (layout 99, this one knows 1)");
  });
  test("a file", async () => {
    writeFileSync(join(folder, "file"), "");
    expect(await refusal(join(folder, "file"))).toContain("a file stands in its way");
  });
  test("one that may not be written (a folder of the kernel's, closed even to root)", async () => {
    expect(await refusal("/sys/nubrel")).toContain("This account may not write to /sys/nubrel");
    expect(await refusal("/proc/nubrel")).toContain("/proc/nubrel cannot be made");
  });
});
