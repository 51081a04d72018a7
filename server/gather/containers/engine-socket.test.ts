import { chmodSync, mkdtempSync, rmSync, writeFileSync } from "node:fs";
import { createServer, type RequestListener } from "node:http";
import { createServer as createRawServer, type Socket } from "node:net";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { afterEach, describe, expect, test } from "vitest";
import { engineSocket } from "./engine-socket.ts";

// The counterpart is HTTP over a local socket as Node's own server speaks it; an engine needs privileges that tests lack.

const ends: (() => unknown)[] = [];
afterEach(async () => {
  for (const end of ends.splice(0).reverse()) await end();
});

function folder(): string {
  const path = mkdtempSync(join(tmpdir(), "nubrel-engine-"));
  ends.push(() => rmSync(path, { recursive: true, force: true }));
  return path;
}

/** An engine that answers so, and its socket. */
async function engine(answer: RequestListener): Promise<string> {
  const path = join(folder(), "engine.sock");
  const server = createServer(answer);
  await new Promise<void>((resolve) => server.listen(path, resolve));
  ends.push(
    () =>
      new Promise((resolve) => {
        server.closeAllConnections();
        server.close(resolve);
      }),
  );
  return path;
}

/** Something else that listens at a socket. */
async function listener(take: (socket: Socket) => void): Promise<string> {
  const path = join(folder(), "other.sock");
  const sockets: Socket[] = [];
  const server = createRawServer((socket) => {
    sockets.push(socket.on("error", () => undefined));
    take(socket);
  });
  await new Promise<void>((resolve) => server.listen(path, resolve));
  ends.push(
    () =>
      new Promise((resolve) => {
        for (const socket of sockets) socket.destroy();
        server.close(resolve);
      }),
  );
  return path;
}

describe("an engine at a socket", () => {
  test("answers with its status and its JSON, as often as it is asked", async () => {
    const path = await engine((request, response) => {
      response.writeHead(request.url === "/info" ? 200 : 404, { "content-type": "application/json" });
      response.end(JSON.stringify({ asked: request.url, host: request.headers.host }));
    });
    const { get } = engineSocket(path, 2000);
    expect(await get("/info")).toEqual({ status: 200, json: { asked: "/info", host: "localhost" } });
    expect(await get("/x")).toMatchObject({ status: 404 });
  });
  test("that starts anew between two questions is asked over a new connection", async () => {
    const path = await engine((_, response) => response.end("1"));
    const { get } = engineSocket(path, 2000);
    expect((await get("/")).json).toBe(1);
    await ends.pop()?.();
    await expect(get("/")).rejects.toMatchObject({ kind: expect.stringMatching(/wrong path|nothing listens/) });
    const server = createServer((_, response) => response.end("2"));
    await new Promise<void>((resolve) => server.listen(path, resolve));
    ends.push(() => new Promise((resolve) => server.close(resolve)));
    expect((await get("/")).json).toBe(2);
  });
});

describe("what is wrong with a socket is said", () => {
  const kindOf = async (path: string) => {
    const error = await engineSocket(path, 300)
      .get("/info")
      .then(
        () => undefined,
        (said) => said,
      );
    return [error?.kind, error?.message];
  };

  test("there is none", async () =>
    expect(await kindOf(join(folder(), "none.sock"))).toEqual(["wrong path", expect.stringContaining("no socket")]));
  test("a file that is no socket", async () => {
    const path = join(folder(), "file");
    writeFileSync(path, "");
    expect((await kindOf(path))[0]).toBe("nothing listens");
  });
  test.skipIf(process.getuid?.() === 0)("one that this account may not use", async () => {
    const path = await engine((_, response) => response.end("{}"));
    chmodSync(path, 0);
    expect((await kindOf(path))[0]).toBe("not allowed");
  });
  test("no answer within the time, nor the rest of one", async () => {
    expect(await kindOf(await engine(() => undefined))).toEqual(["no answer", expect.stringContaining("within 0.3 s")]);
    const half = await engine((_, response) => void response.writeHead(200, { "content-length": 10 }).write("{"));
    expect((await kindOf(half))[0]).toBe("no answer");
  });
  test("an answer that ends in the middle", async () => {
    const path = await engine((_, response) => {
      response.writeHead(200, { "content-length": 10 }).write("{");
      setImmediate(() => response.destroy());
    });
    expect((await kindOf(path))[0]).toBe("truncated");
  });
  test("no JSON", async () => {
    expect((await kindOf(await engine((_, response) => response.end("<html>"))))[0]).toBe("not the format");
  });
  test("no HTTP", async () => {
    expect(await kindOf(await listener((socket) => socket.write("SSH-2.0-x\r\n")))).toEqual([
      "not the format",
      expect.stringContaining("does not speak HTTP"),
    ]);
  });
  test("more than anybody needs: it is not read on", async () => {
    const piece = Buffer.alloc(1_048_576, " ");
    let sent = 0;
    const path = await engine((_, response) => {
      const more = () => {
        while (sent < 64 && response.write(piece)) sent++;
        if (sent < 64) response.once("drain", more);
      };
      more();
    });
    expect((await kindOf(path))[0]).toBe("too large");
    expect(sent).toBeLessThan(40);
  });
});

describe("events that are followed", () => {
  test("come line by line however they are cut, what is no JSON is passed over; the end is told once", async () => {
    const pieces = ['{"a":1}\n{"b"', ':"ä', '"}\nnot json\n\n{"c":3}\n{"d":'].map((text) => Buffer.from(text));
    const cut = Buffer.concat(pieces);
    const path = await engine(async (_, response) => {
      response.writeHead(200);
      for (let at = 0; at < cut.length; at += 3) {
        response.write(cut.subarray(at, at + 3));
        await new Promise((resolve) => setImmediate(resolve));
      }
      response.end();
    });
    const lines: unknown[] = [];
    let ends = 0;
    await new Promise<void>((resolve) =>
      engineSocket(path, 300).follow(
        "/events",
        (json) => lines.push(json),
        () => {
          ends++;
          resolve();
        },
      ),
    );
    expect(lines).toEqual([{ a: 1 }, { b: "ä" }, { c: 3 }]);
    expect(ends).toBe(1);
  });
  test("nothing is told once it was stopped, nor that it ended", async () => {
    let write: (text: string) => void = () => undefined;
    let closed: () => void = () => undefined;
    const isClosed = new Promise<void>((resolve) => (closed = resolve));
    const path = await engine((_, response) => {
      response.writeHead(200);
      write = (text) => response.write(text);
      response.on("close", closed);
      response.write('{"n":1}\n');
    });
    const told: unknown[] = [];
    let first: () => void = () => undefined;
    const came = new Promise<void>((resolve) => (first = resolve));
    const stop = engineSocket(path, 300).follow(
      "/events",
      (json) => {
        told.push(json);
        first();
      },
      () => told.push("ended"),
    );
    await came;
    stop();
    write('{"n":2}\n');
    await isClosed;
    expect(told).toEqual([{ n: 1 }]);
  });
  test("of a socket that is not there, the end is told", async () => {
    await new Promise<void>((resolve) =>
      engineSocket(join(folder(), "none.sock"), 300).follow("/events", () => undefined, resolve),
    );
  });
});
