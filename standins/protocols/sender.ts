import { Agent, request } from "undici";

const timeoutMs = 10_000;

/**
 * Sends to an address at every whole multiple of `everyMs`; what fails is left, as simple senders do. The result stops
 * it.
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
  const plan = () => {
    timer = setTimeout(
      () => {
        plan();
        const text = body(Date.now() / 1000);
        if (text === "") return;
        running = request(`${address}${path}`, {
          method: "POST",
          dispatcher: agent,
          headers: { authorization: `Bearer ${token}`, "content-type": contentType },
          body: text,
          signal: AbortSignal.timeout(timeoutMs),
        })
          .then((answer) => answer.body.dump())
          .catch(() => {});
      },
      everyMs - (Date.now() % everyMs),
    );
  };
  plan();
  return async () => {
    clearTimeout(timer);
    await agent.destroy();
    await running;
  };
}
