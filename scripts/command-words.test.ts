import { execFile } from "node:child_process";
import { mkdtempSync, rmSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { promisify } from "node:util";
import { afterAll, describe, expect, test } from "vitest";
import { bashCompletion, commands, manualPage, optionWords, zshCompletion } from "./command-words.mjs";

const run = promisify(execFile);
const folder = mkdtempSync(join(tmpdir(), "nubrel-command-"));
afterAll(() => rmSync(folder, { recursive: true }));

/** What `bin/nubrel` prints and ends with, with a data folder that holds nothing. */
async function nubrel(...args: string[]): Promise<{ code: number; out: string; err: string }> {
  const env = { ...process.env, NUBREL_DATA: join(folder, "none"), NUBREL_DATABASE_URL: "" };
  try {
    const { stdout, stderr } = await run("bin/nubrel", args, { env });
    return { code: 0, out: stdout, err: stderr };
  } catch (error) {
    const { code, stdout, stderr } = error as { code: number; stdout: string; stderr: string };
    return { code, out: stdout, err: stderr };
  }
}

describe("the command line", () => {
  test("every command tells what it takes, every option is one that it knows", async () => {
    const helps = await Promise.all(commands.map(({ name }) => nubrel(name, "--help")));
    for (const [i, { name, options }] of commands.entries()) {
      expect(helps[i]).toMatchObject({ code: 0, out: expect.stringContaining(`nubrel ${name}`) });
      for (const option of options) expect(helps[i]?.out, name).toContain(`--${option}`);
    }
    const used = new Set(commands.flatMap(({ options }) => options));
    expect([...used].sort()).toEqual(Object.keys(optionWords).sort());
  });
  test.each([
    [["nothing"], "There is no command"],
    [["help", "nothing"], "There is no command"],
    [["backup"], "wants a file"],
    [["backup", "a", "b"], "one file at most"],
    [["backup", "a", "--for", "4m"], "takes no --for"],
    [["backup", "--wrong"], "--wrong"],
    [["event"], "wants what happened"],
    [["event", "x", "--from", "noon"], "is no moment"],
    [["record"], "wants a recording's name"],
    [["record", "morning", "--for", "4x"], "is no length"],
    [["person", "reset"], "wants to know whom"],
  ])("%j is told, and ends with 2", async (args, words) => {
    const { code, err } = await nubrel(...args);
    expect(err).toContain(words);
    expect(code).toBe(2);
  });
  test.each([
    [["record", "morning", "--for", "4m"], "does not run with"],
    [["event", "x", "--from", "2026-11-23T02:10"], "does not run with"],
    [["import", "nowhere.txt"], "There is no file"],
    [["remove", "--yes"], "There is no data"],
  ])("%j cannot be done here, and ends with 1", async (args, words) => {
    const { code, err } = await nubrel(...args);
    expect(err).toContain(words);
    expect(code).toBe(1);
  });
});

describe("what shells and manuals make of it", () => {
  test.each([
    ["nubrel ba", ["backup"]],
    ["nubrel re", ["record", "restore", "relay", "remove"]],
    ["nubrel token --s", ["--scope"]],
    ["nubrel token --scope ", ["read", "manage"]],
    ["nubrel person ", ["reset"]],
    ["nubrel record --", ["--for", "--anyway", "--demo", "--help"]],
  ])("bash completes %j", async (line, offered) => {
    const words = line.split(" ");
    const script = `${bashCompletion()}
COMP_WORDS=(${words.map((word) => `"${word}"`).join(" ")}); COMP_CWORD=${words.length - 1}
_nubrel; printf '%s\\n' "\${COMPREPLY[@]}"`;
    const { stdout } = await run("bash", ["-c", script]);
    expect(stdout.trim().split("\n").sort()).toEqual([...offered].sort());
  });
  test("zsh's names every command, and quotes what it says", () => {
    const text = zshCompletion();
    for (const { name } of commands) expect(text).toContain(`'${name}:`);
    expect(text).not.toMatch(/\[[^\]]*\n/);
  });
  test("the manual page says every command, option and ending, and nothing that begins a request by accident", () => {
    const page = manualPage("9.9.9", "2026-11-30");
    writeFileSync(join(folder, "nubrel.1"), page);
    for (const { name } of commands) expect(page).toContain(`.B nubrel ${name.replaceAll("-", "\\-")}`);
    for (const name of Object.keys(optionWords)) expect(page).toContain(`.B \\-\\-${name}`);
    // man(7): a line that begins with a point is a request; these are all that the page uses.
    const requests = new Set(page.split("\n").flatMap((line) => line.match(/^[.'](\S*)/)?.[1] ?? []));
    expect([...requests].sort()).toEqual(["B", "BR", "I", "PP", "RI", "SH", "TH", "TP"]);
  });
});
