import { type AddressInfo, connect, createServer, type Socket } from "node:net";
import { setTimeout as delay } from "node:timers/promises";
import { Transform } from "node:stream";

/** A way to a port that can be cut, and that lets through so many bytes a second, each way. */
export interface WeakLink {
  readonly port: number;
  /** Bytes that went through, both ways together. */
  readonly carried: () => number;
  cut(): void;
  mend(): void;
  close(): Promise<void>;
}

export async function weakLink(to: number, bytesPerSecond = Number.POSITIVE_INFINITY): Promise<WeakLink> {
  const open = new Set<Socket>();
  let isCut = false;
  let carried = 0;
  const slow = () =>
    new Transform({
      transform(chunk: Buffer, _encoding, done) {
        carried += chunk.length;
        if (!Number.isFinite(bytesPerSecond)) return done(null, chunk);
        void delay((chunk.length / bytesPerSecond) * 1000).then(() => done(null, chunk));
      },
      highWaterMark: 1024,
    });
  const server = createServer((near) => {
    if (isCut) return near.destroy();
    const far = connect(to, "127.0.0.1");
    for (const [socket, other] of [
      [near, far],
      [far, near],
    ] as const) {
      open.add(socket);
      socket.on("error", () => {});
      socket.on("close", () => {
        open.delete(socket);
        other.destroy();
      });
      socket.pipe(slow()).pipe(other);
    }
  });
  await new Promise<void>((resolve) => server.listen(0, "127.0.0.1", resolve));
  const cut = () => {
    isCut = true;
    for (const socket of open) socket.destroy();
  };
  return {
    port: (server.address() as AddressInfo).port,
    carried: () => carried,
    cut,
    mend: () => {
      isCut = false;
    },
    close: async () => {
      cut();
      await new Promise((resolve) => server.close(resolve));
    },
  };
}
