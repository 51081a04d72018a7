import { rmSync } from "node:fs";
import { createServer, type ServerResponse } from "node:http";

export interface EngineModel {
  answer(path: string, second: number): unknown;
  events(fromSecond: number, toSecond: number): readonly object[];
}

export interface EngineServer {
  /** Tells everybody who listens to events. */
  tell(event: object): void;
  close(): Promise<void>;
}

const lookEveryMs = 1000;

/** A container engine at a local socket: its list, statistics and events. */
export async function startEngineServer(
  socketPath: string,
  model: EngineModel,
  atSeconds: () => number,
): Promise<EngineServer> {
  const listeners = new Set<ServerResponse>();
  const tell = (event: object) => {
    for (const listener of listeners) listener.write(`${JSON.stringify(event)}\n`);
  };
  const server = createServer((request, response) => {
    const path = request.url ?? "/";
    if (path.startsWith("/events")) {
      response.writeHead(200, { "content-type": "application/json" });
      response.flushHeaders();
      listeners.add(response);
      response.on("close", () => listeners.delete(response));
      return;
    }
    const answer = model.answer(path, atSeconds());
    response.writeHead(answer === undefined ? 404 : 200, { "content-type": "application/json" });
    response.end(answer === undefined ? '{"message":"page not found"}' : JSON.stringify(answer));
  });
  rmSync(socketPath, { force: true });
  await new Promise<void>((resolve, reject) => {
    server.once("error", reject);
    server.listen(socketPath, resolve);
  });
  let last = atSeconds();
  const looking = setInterval(() => {
    const now = atSeconds();
    for (const event of model.events(last, now)) tell(event);
    last = now;
  }, lookEveryMs);
  return {
    tell,
    close: () =>
      new Promise((resolve) => {
        clearInterval(looking);
        server.close(() => resolve());
        server.closeAllConnections();
      }),
  };
}
