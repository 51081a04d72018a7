import { createServer } from "node:http";
import type { AddressInfo } from "node:net";

/**
 * A page of counters over HTTP. `page` gives undefined where the machine cannot be reached just then: the connection
 * breaks.
 */
export async function startPageServer(
  port: number,
  page: (second: number) => string | undefined,
  atSeconds: () => number,
): Promise<{ readonly port: number; close(): Promise<void> }> {
  const server = createServer((request, response) => {
    const text = page(atSeconds());
    if (text === undefined) return request.socket.destroy();
    if (request.url !== "/metrics") return response.writeHead(404).end();
    response.writeHead(200, { "content-type": "application/openmetrics-text; version=1.0.0; charset=utf-8" });
    response.end(text);
  });
  await new Promise<void>((resolve, reject) => {
    server.once("error", reject);
    server.listen(port, "127.0.0.1", resolve);
  });
  return {
    port: (server.address() as AddressInfo).port,
    close: () =>
      new Promise((resolve) => {
        server.close(() => resolve());
        server.closeAllConnections();
      }),
  };
}
