import { readdirSync, readFileSync } from "node:fs";
import { Agent, request } from "undici";
import { startServerProcess } from "../e2e/support/server-process.mjs";
import { benchDatabase } from "./bench-database.ts";

export const agent = new Agent({ connections: 16 });

/** A fresh server with an owner, and a way to ask it; its own machine is as good as not gathered, unless it is said. */
export async function serve(name: string, gatherMs = 3_600_000) {
  const { url } = await benchDatabase(name);
  const server = await startServerProcess(url, { env: { NUBREL_GATHER_MS: String(gatherMs) } });
  return { server, ask: await signIn(server) };
}

/** Makes the owner of a server, and gives a way to ask it as that one. Throws where something is refused. */
export async function signIn(server: { readonly address: string; readonly setupCode?: string }) {
  let cookie = "";
  const ask = async (method: "GET" | "POST", path: string, body?: unknown) => {
    const answer = await request(server.address + path, {
      method,
      dispatcher: agent,
      headers: { origin: server.address, cookie, ...(body !== undefined && { "content-type": "application/json" }) },
      ...(body !== undefined && { body: JSON.stringify(body) }),
    });
    cookie = String(answer.headers["set-cookie"] ?? cookie).split(";")[0] as string;
    const text = await answer.body.text();
    if (answer.statusCode >= 300) throw new Error(`${path} was answered ${answer.statusCode}: ${text.slice(0, 300)}`);
    return { status: answer.statusCode, body: JSON.parse(text) };
  };
  await ask("POST", "/api/setup", { code: server.setupCode, name: "Ines", password: "kestrel on the quay" });
  return ask;
}

/** Of all threads, to the nanosecond: `stat` counts hundredths of a second, which is a sixth of what is measured here. */
export function processorSeconds(pid: number): number {
  const ofThread = (thread: string) => {
    try {
      return Number(readFileSync(`/proc/${pid}/task/${thread}/schedstat`, "utf8").split(" ", 1)[0]);
    } catch {
      return 0; // it has ended meanwhile
    }
  };
  return readdirSync(`/proc/${pid}/task`).reduce((sum, thread) => sum + ofThread(thread), 0) / 1e9;
}
