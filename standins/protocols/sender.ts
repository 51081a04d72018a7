import { Agent, request } from "undici";

const timeoutMs = 10_000;

/** What an answer may say to a collector: gather these more often, for so long. */
interface Wish {
  readonly everyMs: number;
  readonly untilMs: number;
  readonly counters: readonly string[];
}

/**
 * Sends to an address at every whole multiple of `everyMs`; what fails is left, as simple senders do. As our collector
 * does, it sends what the answer asks for more often as often, and that alone. The result stops it.
 */
export function startSender({
  address,
  path,
  token,
  contentType,
  everyMs,
  body,
}: {
  address: string;
  path: string;
  token: string;
  contentType: string;
  everyMs: number;
  body: (second: number) => string;
}): () => Promise<void> {
  const agent = new Agent({ connect: { rejectUnauthorized: false }, connections: 1 });
  let timer: NodeJS.Timeout | undefined;
  let running: Promise<unknown> = Promise.resolve();
  let wish: Wish | undefined;
  const plan = () => {
    const now = Date.now();
    if (wish && wish.untilMs <= now) wish = undefined;
    const pace = Math.min(everyMs, wish?.everyMs ?? everyMs);
    const nextMs = (Math.floor(now / pace) + 1) * pace;
    timer = setTimeout(() => {
      plan();
      const text = body(nextMs / 1000);
      const wanted = nextMs % everyMs === 0 ? text : onlyWanted(text, wish?.counters ?? []);
      if (wanted === "") return;
      running = request(`${address}${path}`, {
        method: "POST",
        dispatcher: agent,
        headers: { authorization: `Bearer ${token}`, "content-type": contentType },
        body: wanted,
        signal: AbortSignal.timeout(timeoutMs),
      })
        .then(async (answer) => {
          wish = wishOf(await answer.body.json().catch(() => undefined));
        })
        .catch(() => {});
    }, nextMs - now);
  };
  plan();
  return async () => {
    clearTimeout(timer);
    await agent.destroy();
    await running;
  };
}

function wishOf(answer: unknown): Wish | undefined {
  const { gather } = (answer ?? {}) as {
    gather?: { everySeconds: number; forSeconds: number; counters: string };
  };
  return (
    gather && {
      everyMs: gather.everySeconds * 1000,
      untilMs: Date.now() + gather.forSeconds * 1000,
      counters: gather.counters.split(" "),
    }
  );
}

/** The lines of a page that are of these counters; all where none is named. */
function onlyWanted(text: string, counters: readonly string[]): string {
  if (counters.join("") === "") return text;
  const lines = text.split("\n").filter((line) => counters.includes(line.split(/[{ ]/)[0] ?? ""));
  return lines.length === 0 ? "" : `${lines.join("\n")}\n`;
}
