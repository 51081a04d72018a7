import type { AddressInfo, Server } from "node:net";

/** A server that answers. */
export interface Listening {
  readonly port: number;
  close(): Promise<void>;
}

/** Has a server answer at a port, 0 for any that is free. Throws what the system says. */
export async function listening(
  server: Server & { closeAllConnections?(): void },
  port: number,
  host: string,
): Promise<Listening> {
  await new Promise<void>((resolve, reject) => {
    server.once("error", reject);
    server.listen(port, host, resolve);
  });
  const close = () =>
    new Promise<void>((resolve) => {
      server.close(() => resolve());
      server.closeAllConnections?.();
    });
  return { port: (server.address() as AddressInfo).port, close };
}
