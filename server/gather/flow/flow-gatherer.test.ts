import { execFile, spawn } from "node:child_process";
import { createSocket } from "node:dgram";
import { existsSync, mkdtempSync, rmSync } from "node:fs";
import { createServer } from "node:http";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { promisify } from "node:util";
import { afterAll, expect, onTestFinished, test } from "vitest";
import type { FlowDevice } from "../../../core/sources/kinds/flow.ts";
import { freeUdpPort } from "../../testing/snmp-agent.ts";
import { FlowGatherer } from "./flow-gatherer.ts";

const device = (port: number, more: Partial<FlowDevice> = {}): FlowDevice => ({
  kind: "flow",
  host: "127.0.0.1",
  port,
  from: "",
  timeoutMs: 15_000,
  ...more,
});
const run = promisify(execFile);
const ip = (...words: readonly string[]) => run("ip", [...words]);
const [space, near, far] = ["nubrel-flows", "nbf0", "nbf1"];

/** A virtual link between this machine and a network namespace of its own. */
async function makeLink(): Promise<boolean> {
  try {
    await ip("link", "del", near).catch(() => {}); // of a run that was ended in its midst
    await ip("netns", "del", space).catch(() => {});
    await ip("netns", "add", space);
    await ip("link", "add", near, "type", "veth", "peer", "name", far, "netns", space);
    await ip("addr", "add", "198.51.100.1/30", "dev", near); // TEST-NET-2, RFC 5737
    await ip("link", "set", near, "up");
    await ip("-n", space, "addr", "add", "198.51.100.2/30", "dev", far);
    await ip("-n", space, "link", "set", far, "up");
    return true;
  } catch {
    return false;
  }
}
const hasExporter = process.getuid?.() === 0 && existsSync("/usr/sbin/softflowd");
const isLinked = hasExporter && (await makeLink());
afterAll(async () => {
  if (!hasExporter) return;
  await ip("link", "del", near).catch(() => {});
  await ip("netns", "del", space).catch(() => {});
});

// Debian's exporter watches one end of the link while a real web server answers over it.
test.skipIf(!isLinked).each([9, 10])(
  "a real exporter (Debian's softflowd) on a virtual link, version %i: what a web server has sent is told as its protocol's",
  async (version) => {
    const port = await freeUdpPort();
    const gatherer = new FlowGatherer(device(port, { timeoutMs: 25_000 }));
    onTestFinished(() => gatherer.close());
    const first = gatherer.gather(Date.now()); // it listens before anything is sent
    const folder = mkdtempSync(join(tmpdir(), "nubrel-flows-"));
    const size = 20_000;
    const server = createServer((_request, response) => response.end(Buffer.alloc(size, 7)));
    // a registered port, so that it has a name
    await new Promise<void>((resolve) => server.listen(8080, "198.51.100.1", resolve));
    onTestFinished(() => void server.close());
    const timeouts = ["maxlife=2", "expint=1", "tcp=1", "tcp.fin=1", "tcp.rst=1", "general=1"].flatMap((timeout) => [
      "-t",
      timeout,
    ]);
    const child = spawn(
      "/usr/sbin/softflowd",
      [
        "-i",
        near,
        "-n",
        `127.0.0.1:${port}`,
        "-v",
        String(version),
        "-d",
        "-c",
        join(folder, "control"),
        "-p",
        join(folder, "pid"),
        ...timeouts,
        "tcp and port 8080",
      ],
      { stdio: ["ignore", "pipe", "pipe"] },
    );
    onTestFinished(async () => {
      const ended = new Promise((resolve) => child.once("exit", resolve));
      child.kill("SIGTERM");
      await ended;
      rmSync(folder, { recursive: true, force: true });
    });
    await new Promise((resolve) => child.stderr.once("data", resolve));
    let asked = 0;
    const ask = async (count: number) => {
      asked += count;
      await run("ip", [
        "netns",
        "exec",
        space,
        process.execPath,
        "-e",
        `const ask = (n) => n > 0 && require("node:http").get({ host: "198.51.100.1", port: 8080, agent: false }, (answer) => answer.resume().on("end", () => ask(n - 1))); ask(${count})`,
      ]);
    };
    await ask(200);
    await first;
    const received = async () =>
      (await gatherer.gather(Date.now())).readings.filter(({ tags }) => tags["direction"] === "receive");
    const http = async () =>
      (await received())
        .filter(({ tags }) => tags["protocol"] === "http-alt")
        .reduce((sum, { value }) => sum + value, 0);
    // Its capture hands packets on in blocks: what came last waits until more has come.
    await expect
      .poll(
        async () => {
          await ask(50);
          return await http();
        },
        { timeout: 20_000, interval: 300 },
      )
      .toBeGreaterThan(size * 200);
    expect(await http()).toBeLessThan(size * asked * 1.15); // headers of IP and TCP, and the requests
    expect(new Set((await received()).map(({ tags }) => tags["protocol"]))).toEqual(new Set(["http-alt"]));
  },
  60_000,
);

test("nothing that comes, another sender, what is no flow, and a port that is taken are told apart", async () => {
  const port = await freeUdpPort();
  const failure = (of: FlowGatherer) =>
    of.gather(Date.now()).then(
      () => undefined,
      (error) => [error.kind, error.message],
    );
  const quiet = new FlowGatherer(device(port, { timeoutMs: 200 }));
  expect(await failure(quiet)).toEqual(["no answer", expect.stringContaining("No flows have come")]);
  const picky = new FlowGatherer(device(port, { timeoutMs: 1500, from: "192.0.2.1" })); // shares the port
  const wary = new FlowGatherer(device(port, { timeoutMs: 1500 }));
  const socket = createSocket("udp4");
  // Again and again: when both listen, nobody says.
  const sending = setInterval(() => socket.send(Buffer.from([0, 5, 0, 1]), port, "127.0.0.1"), 20);
  const asked = await Promise.all([failure(picky), failure(wary)]);
  clearInterval(sending);
  await wary.close();
  expect(asked).toEqual([
    ["not allowed", expect.stringContaining("from 127.0.0.1, and not from 192.0.2.1")],
    ["not the format", expect.stringContaining("version 5")],
  ]);
  await quiet.close();
  await picky.close();
  const other = createSocket("udp4");
  await new Promise<void>((resolve) => other.bind(port, "127.0.0.1", resolve));
  expect(await failure(new FlowGatherer(device(port, { timeoutMs: 200 })))).toEqual([
    "refused",
    expect.stringContaining("another program does"),
  ]);
  other.close();
  socket.close();
});
