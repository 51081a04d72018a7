import { type ChildProcess, spawn } from "node:child_process";
import {
  chmodSync,
  existsSync,
  mkdtempSync,
  readdirSync,
  readFileSync,
  rmSync,
  statSync,
  writeFileSync,
} from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { afterAll, beforeAll, expect, test } from "vitest";

// The command line as a person types it, beside a server that runs and without one. Each test goes on where the one
// before ended.
let folder: string;
let server: ChildProcess | undefined;
const at = (name: string) => join(folder, name);

function nubrel(
  data: string,
  args: readonly string[],
  input = "",
  cwd = process.cwd(),
): Promise<{ readonly code: number | null; readonly out: string; readonly said: string }> {
  const child = spawn(join(process.cwd(), "bin/nubrel"), args, {
    cwd,
    env: { ...process.env, NUBREL_DATA: at(data), NUBREL_DATABASE_URL: "" },
  });
  let out = "";
  let said = "";
  child.stdout.on("data", (text) => (out += text));
  child.stderr.on("data", (text) => (said += text));
  child.stdin.end(input);
  return new Promise((resolve) => child.once("close", (code) => resolve({ code, out, said })));
}

function start(data: string): Promise<void> {
  const child = spawn(process.execPath, ["scripts/start.mjs"], {
    env: {
      ...process.env,
      NUBREL_DATA: at(data),
      NUBREL_PORT: "0",
      NUBREL_DATABASE_URL: "",
      NUBREL_MACHINE: "vault",
      NUBREL_GATHER_MS: "500",
      ...(data === "one" && { NUBREL_BACKUP_TO: at("nightly"), NUBREL_BACKUP_KEEP: "2" }),
    },
  });
  server = child;
  return new Promise((resolve, reject) => {
    child.stdout.on("data", (text) => String(text).includes("Nubrel is at") && resolve());
    child.once("exit", (code) => reject(new Error(`it ended (${code})`)));
  });
}

async function stop(): Promise<void> {
  const ended = new Promise((resolve) => server?.once("exit", resolve));
  server?.kill("SIGINT");
  await ended;
  server = undefined;
}

/** Command lines that run now and match. */
function commandLines(pattern: RegExp): readonly string[] {
  const lines: string[] = [];
  for (const pid of readdirSync("/proc").filter((name) => /^\d+$/.test(name))) {
    try {
      lines.push(readFileSync(`/proc/${pid}/cmdline`, "utf8").replaceAll("\0", " "));
    } catch {
      // gone meanwhile
    }
  }
  return lines.filter((line) => pattern.test(line));
}

beforeAll(async () => {
  folder = mkdtempSync(join(tmpdir(), "nubrel-command-"));
  chmodSync(folder, 0o711);
  await start("one");
});
afterAll(async () => {
  if (server) await stop();
  rmSync(folder, { recursive: true, force: true });
});

test("exports what a running server has stored, and imports into it", async () => {
  await expect
    .poll(async () => (await nubrel("one", ["export", "--counter", "system.uptime", "--format", "jsonl"])).out, {
      timeout: 20_000,
      interval: 500,
    })
    .toContain('"counter":"system.uptime"');
  const time = Math.floor(Date.now() / 1000) - 3600;
  writeFileSync(
    at("old.txt"),
    `# TYPE lamp gauge\nlamp{machine="mast"} 1 ${time}\nlamp{machine="mast"} 0 ${time + 60}\nlamp{machine="mast"} 0 5\n# EOF\n`,
  );
  const imported = await nubrel("one", ["import", at("old.txt")]);
  expect(imported).toMatchObject({ code: 0, out: "imported 2 samples; 1 refused: older than retention\n" });
  const csv = await nubrel("one", ["export", "--format", "csv", "--machine", "mast"]);
  expect(csv.out.split("\r\n")).toEqual([
    "time,counter,unit,kind,tags,value",
    `${new Date(time * 1000).toISOString()},lamp,1,level,"{""machine"":""mast""}",1`,
    `${new Date((time + 60) * 1000).toISOString()},lamp,1,level,"{""machine"":""mast""}",0`,
    "",
  ]);
  expect(csv.said).toContain("exported 2 samples of 1 series");
});

test("where no backup is yet one is taken by itself, and tried; it can be restored", async () => {
  const taken = () => (existsSync(at("nightly")) ? readdirSync(at("nightly")) : []);
  const one = [expect.stringMatching(/^nubrel-.*\.backup$/)];
  await expect.poll(taken, { timeout: 60_000, interval: 200 }).toEqual(one);
  // The first one may be older than the first sample.
  for (const name of taken()) rmSync(join(at("nightly"), name));
  await expect.poll(taken, { timeout: 60_000, interval: 200 }).toEqual(one);
  const file = join(at("nightly"), taken()[0] as string);
  expect(statSync(file).mode & 0o777).toBe(0o600);
  const running = JSON.parse(readFileSync(join(at("one"), "running.json"), "utf8")) as { address: string };
  expect(await (await fetch(`${running.address}/api/health`)).json()).toMatchObject({ status: "ok" });
  expect(await nubrel("nightly-restored", ["restore", file])).toMatchObject({ code: 0 });
  const found = await nubrel("nightly-restored", ["export", "--counter", "system.uptime", "--format", "jsonl"]);
  expect(found.out).toContain('"counter":"system.uptime"');
  expect(commandLines(/nubrel_check_/)).toEqual([]);
});

test("the doctor looks at what stands around the data while it serves, and at every block", async () => {
  chmodSync(join(at("one"), "postgres-password"), 0o644);
  const ill = await nubrel("one", ["doctor"]);
  expect(ill.code).toBe(1);
  expect(ill.out).toMatch(/^! rights +.*postgres-password is 0644\n +Others may read/m);
  chmodSync(join(at("one"), "postgres-password"), 0o600);
  const well = await nubrel("one", ["doctor"]);
  for (const line of [
    /^ {2}server +answers at http/m,
    /^ {2}settings +of PostgreSQL are safe/m,
    /^All .* blocks can be read/m,
  ])
    expect(well.out).toMatch(line);
  expect(well.out).not.toContain("postgres-password is 0644");
});

test("what watches a container asks for its health: by how it ends", async () => {
  expect(await nubrel("one", ["health"])).toMatchObject({ code: 0, out: expect.stringContaining("Nubrel works.") });
  expect(await nubrel("empty", ["health"])).toMatchObject({ code: 1 });
});

test("a profile says which functions ran, in the form that developer tools read", async () => {
  // Chrome DevTools Protocol, Profiler.Profile: nodes with calls, and of each sample its node and the time since the one before.
  const { code, out } = await nubrel("one", ["profile", "1"], "", folder);
  expect(code).toBe(0);
  const name = /^\s*(nubrel-\S+\.cpuprofile) is written/.exec(out)?.[1] as string;
  const { nodes, samples, timeDeltas, startTime, endTime } = JSON.parse(readFileSync(at(name), "utf8"));
  expect(endTime - startTime).toBeGreaterThan(900_000);
  expect(timeDeltas).toHaveLength(samples.length);
  const known = new Set(nodes.map(({ id }: { id: number }) => id));
  expect(samples.every((id: number) => known.has(id))).toBe(true);
  expect(nodes.map(({ callFrame }: { callFrame: { functionName: string } }) => callFrame.functionName)).toContain(
    "(idle)",
  );
  expect((await nubrel("one", ["profile", "0"])).said).toContain("no number of seconds from 1 to 300");
  expect((await nubrel("none", ["profile"])).said).toContain("Nubrel does not run with");
});

test("a script tells what happened; what cannot be read is said", async () => {
  const told = await nubrel("one", [
    "event",
    "archive copy",
    "ran",
    "--kind",
    "backup",
    "--machine",
    "vault",
    "--from",
    "2026-11-23T02:10:00Z",
    "--to",
    "2026-11-23T03:05:00Z",
  ]);
  expect(told).toMatchObject({
    code: 0,
    out: "noted: archive copy ran (vault), 2026-11-23T02:10:00.000Z to 2026-11-23T03:05:00.000Z\n",
  });
  expect((await nubrel("one", ["event", "moved the rack"])).out).toMatch(/^noted: moved the rack, 20\d\d-/);
  expect((await nubrel("one", ["event", "x", "--from", "yesterday"])).said).toContain(
    '--from "yesterday" is no moment. Write it as 2026-11-23T02:10',
  );
  expect((await nubrel("one", ["event"])).said).toContain("nubrel event wants what happened");
  expect((await nubrel("one", ["event", "x", "--to", "2999-01-01"])).said).toContain("lies more than 10 min ahead");
  expect((await nubrel("none", ["event", "x"])).said).toContain("Nubrel does not run");
});

test("tells what is wrong with what it is given", async () => {
  writeFileSync(at("bad.txt"), "lamp on 5\n# EOF\n");
  expect((await nubrel("one", ["import", at("bad.txt")])).said).toContain(
    'line 1, column 6: "on" is not a number. The 0 samples before it are stored',
  );
  expect((await nubrel("one", ["export", "--format", "xml"])).said).toContain(
    "--format xml is not known; there are openmetrics, csv, jsonl.",
  );
  expect((await nubrel("one", ["export", "--from", "soon"])).said).toContain("--from soon is not a time");
  expect((await nubrel("one", ["import", at("none.txt")])).said).toContain(`There is no file ${at("none.txt")}`);
  expect((await nubrel("one", ["paint"])).said).toContain('There is no command "paint"');
  expect((await nubrel("one", ["remove", "--yes"])).said).toContain("Nubrel runs with this data. Stop it first.");
  expect((await nubrel("none", ["backup", at("x")])).said).toContain(`There is no data of Nubrel in ${at("none")}`);
  expect(existsSync(at("x"))).toBe(false);
});

test("backs up while it runs; restored elsewhere it exports the same, and import goes on without a server", async () => {
  const lines = new Set<string>();
  const looking = setInterval(() => {
    for (const line of commandLines(/pg_dump/)) lines.add(line);
  }, 2);
  expect(await nubrel("one", ["backup", at("all.backup")])).toMatchObject({ code: 0 });
  clearInterval(looking);
  // Everybody on the machine sees them: no password stands there, and the role is not the administrator.
  expect([...lines].join("\n")).toMatch(/pg_dump.*postgres:\/\/nubrel_owner@127\.0\.0\.1:\d+\/postgres/);
  expect(statSync(at("all.backup")).mode & 0o777).toBe(0o600);
  expect((await nubrel("one", ["backup", at("all.backup")])).said).toContain("is there already");
  await stop();
  expect(await nubrel("two", ["restore", at("all.backup")])).toMatchObject({ code: 0 });
  const wish = ["export", "--machine", "mast"];
  expect((await nubrel("two", wish)).out).toBe((await nubrel("one", wish)).out);
  expect((await nubrel("two", ["restore", at("all.backup")])).said).toContain("holds data of Nubrel already");
  expect((await nubrel("two", ["import", at("old.txt")])).said).toContain(
    "imported 2 samples; 1 refused: older than retention",
  );
  expect((await nubrel("two", wish)).out).toBe((await nubrel("one", wish)).out);
  writeFileSync(at("broken.backup"), readFileSync(at("all.backup")).subarray(0, 2000));
  expect((await nubrel("three", ["restore", at("broken.backup")])).said).toContain(
    "could not be restored; nothing of it was kept",
  );
});

test("gives a person a new password, whatever their sign-ins", async () => {
  expect((await nubrel("two", ["person", "reset", "Nobody"])).said).toContain("Nobody here is called Nobody. There");
  expect((await nubrel("two", ["person", "Ines"])).said).toContain("nubrel person reset NAME");
});

test("makes a token that the server takes, and a backup that carries the keys", async () => {
  expect((await nubrel("two", ["token", "--scope", "everything"])).said).toContain("--scope everything is not known");
  const { out } = await nubrel("two", ["token", "--scope", "read", "--name", "wall screen"]);
  expect(out).toMatch(/^nub_[\w-]{43}\n$/);
  expect(readFileSync(at("two/own/secrets.key"), "utf8")).toBe(readFileSync(at("one/own/secrets.key"), "utf8"));
});

test("gives new keys, with which what was sealed opens and the server starts", async () => {
  const files = ["two/own/secrets.key", "two/postgres-password", "two/database-roles.json"];
  const before = files.map((file) => readFileSync(at(file), "utf8"));
  const { code, out } = await nubrel("two", ["new-keys"]);
  expect(code, out).toBe(0);
  expect(out).toContain("0 secrets are sealed with a new key.");
  const after = files.map((file) => readFileSync(at(file), "utf8"));
  for (const [i, text] of after.entries()) expect(text, files[i]).not.toBe(before[i]);
  // Cut short: the database takes the password that is not in the file yet.
  writeFileSync(at("two/postgres-password.next"), after[1] as string, { mode: 0o600 });
  writeFileSync(at("two/postgres-password"), before[1] as string);
  await start("two");
  expect(existsSync(at("two/postgres-password.next"))).toBe(false);
  expect((await nubrel("two", ["new-keys"])).said).toContain("Nubrel runs with this data. Stop it first.");
  await stop();
});

test("removes after asking", async () => {
  expect((await nubrel("two", ["remove"], "yes\n")).out).toContain("Nothing was removed.");
  expect(existsSync(at("two/postgres"))).toBe(true);
  expect((await nubrel("two", ["remove"], "remove\n")).out).toContain("Removed:");
  expect(existsSync(at("two"))).toBe(false);
});
