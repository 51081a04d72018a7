import { problemsPath, problemTitles } from "../../core/api/problem-types.ts";
import { createServer as createHttpServer } from "node:http";
import type { Server as HttpsServer } from "node:https";
import { createServer as createTcpServer, type Server, type Socket } from "node:net";

/** A TLS record that begins a handshake (RFC 8446 §5.1). */
const handshake = 0x16;
const firstByteMs = 10_000;

export type OnePort = Server & { closeAllConnections(): void };

/** One port for https; who comes in clear text is told to come by https, and nothing else is told. */
export function onePort(secure: HttpsServer): OnePort {
  const plain = createHttpServer(
    {
      headersTimeout: firstByteMs,
      requestTimeout: firstByteMs,
      keepAliveTimeout: firstByteMs,
      connectionsCheckingInterval: 5000,
    },
    (request, response) => {
      const host = request.headers.host ?? "";
      if ((request.method === "GET" || request.method === "HEAD") && /^[\w.:[\]-]+$/.test(host))
        response.writeHead(308, { Location: `https://${host}${request.url}`, Connection: "close" }).end();
      else
        response
          .writeHead(426, {
            "Content-Type": "application/problem+json",
            Upgrade: "TLS/1.2, HTTP/1.1",
            Connection: "Upgrade, close",
          })
          .end(
            JSON.stringify({
              type: `/api${problemsPath}/come-by-https`,
              title: problemTitles["come-by-https"],
              status: 426,
              detail: "This server speaks https; nothing of what was sent in clear text was taken.",
            }),
          );
    },
  );
  const open = new Set<Socket>();
  const server = createTcpServer({ pauseOnConnect: true }, (socket) => {
    open.add(socket);
    socket.once("close", () => open.delete(socket));
    socket.on("error", () => {}); // who goes away while it is being looked at
    socket.setTimeout(firstByteMs, () => socket.destroy());
    socket.once("readable", () => {
      const first = socket.read(1) as Buffer | null;
      if (first === null) {
        socket.destroy();
        return;
      }
      socket.setTimeout(0);
      socket.unshift(first);
      (first[0] === handshake ? secure : plain).emit("connection", socket);
    });
    socket.resume();
    socket.pause();
  });
  // Both take connections without listening themselves; without this they would not look at how long those take.
  server.once("listening", () => {
    secure.emit("listening");
    plain.emit("listening");
  });
  server.once("close", () => {
    secure.emit("close");
    plain.emit("close");
    secure.closeAllConnections();
    plain.closeAllConnections();
  });
  return Object.assign(server, {
    closeAllConnections() {
      for (const socket of open) socket.destroy();
    },
  });
}
