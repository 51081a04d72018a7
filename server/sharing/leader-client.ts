import { Agent, request } from "undici";
import type { Leader } from "../db/serving-rows.ts";
import { handedOn } from "../http/from-beside.ts";
import { pinnedToKey } from "../transport/key-pin.ts";

const connectMs = 3000;

/** What is answered so would be answered so again. */
const refused = new Set([400, 413, 415, 422]);

/** The server that leads would refuse it again. */
export class RefusedError extends Error {
  override name = "RefusedError";
}

export interface LeaderClientParts {
  /** The server that leads; undefined where none does. */
  readonly leader: () => Promise<Leader | undefined>;
  /** Below which path all servers are served; "" where there is none. */
  readonly basePath: string;
}

/** Says something of a server that stands beside to the one that leads, for itself and not for who asks it. */
export class LeaderClient {
  readonly #parts: LeaderClientParts;
  #agent: { readonly pin: string | null; readonly agent: Agent } | undefined;

  constructor(parts: LeaderClientParts) {
    this.#parts = parts;
  }

  /** The answer, and by which pass it came. Throws RefusedError, or an Error where it is to be tried again. */
  async post(
    path: string,
    body: Buffer | string,
    { type, signal }: { readonly type: string; readonly signal: AbortSignal },
  ): Promise<{ readonly pass: string; readonly text: string }> {
    const leader = await this.#parts.leader();
    if (!leader) throw new Error("no server leads just now");
    const answer = await request(`${new URL(leader.address).origin}${this.#parts.basePath}/api${path}`, {
      method: "POST",
      dispatcher: this.#agentOf(leader),
      headers: { "content-type": type, [handedOn.pass]: leader.pass, [handedOn.own]: "yes" },
      body,
      signal,
    });
    const text = await answer.body.text();
    if (answer.statusCode < 300) return { pass: leader.pass, text };
    const words = `The server that leads answers ${answer.statusCode}: ${text}`;
    throw refused.has(answer.statusCode) ? new RefusedError(words) : new Error(words);
  }

  async close(): Promise<void> {
    await this.#agent?.agent.destroy();
  }

  #agentOf({ pin }: Leader): Agent {
    if (this.#agent?.pin !== pin) {
      void this.#agent?.agent.destroy();
      const connect = pin === null ? { timeout: connectMs } : pinnedToKey(pin, connectMs);
      this.#agent = { pin, agent: new Agent({ connect, connections: 1 }) };
    }
    return (this.#agent as { readonly agent: Agent }).agent;
  }
}
