import { randomBytes } from "node:crypto";
import { createServer, type Server } from "node:https";
import type { IncomingMessage } from "node:http";
import type { AddressInfo } from "node:net";
import { selfSigned } from "./self-signed.ts";

export type Resources = (second: number) => Readonly<Record<string, Readonly<Record<string, unknown>>>>;

export interface RedfishServer {
  readonly port: number;
  readonly sha256: string;
  /** Sessions that are open. */
  readonly sessions: ReadonlySet<string>;
  close(): Promise<void>;
}

const mostSessions = 8;
const sessionsPath = "/redfish/v1/SessionService/Sessions";

/**
 * A management controller over HTTPS with a certificate of its own: everything but the root wants a session or the
 * credentials (DSP0266 §13).
 */
export async function startRedfishServer({
  port,
  name,
  user,
  password,
  resources,
  atSeconds,
  hasSessions = true,
}: {
  port: number;
  name: string;
  user: string;
  password: string;
  resources: Resources;
  atSeconds: () => number;
  hasSessions?: boolean;
}): Promise<RedfishServer> {
  const { cert, key, sha256 } = await selfSigned(name);
  const sessions = new Set<string>();
  const isKnown = (request: IncomingMessage) =>
    sessions.has(String(request.headers["x-auth-token"] ?? "")) ||
    request.headers.authorization === `Basic ${Buffer.from(`${user}:${password}`).toString("base64")}`;
  const server: Server = createServer({ cert, key }, (request, response) => {
    const answer = (status: number, body?: object, headers: Record<string, string> = {}) => {
      response.writeHead(status, { "content-type": "application/json", "odata-version": "4.0", ...headers });
      response.end(body && JSON.stringify(body));
    };
    const path = (request.url ?? "").split("?")[0] as string;
    if (hasSessions && request.method === "POST" && path === sessionsPath) {
      const pieces: Buffer[] = [];
      request.on("data", (piece: Buffer) => pieces.push(piece));
      request.on("end", () => {
        let given: { UserName?: unknown; Password?: unknown } = {};
        try {
          given = JSON.parse(Buffer.concat(pieces).toString("utf8"));
        } catch {
          return answer(400, { error: { code: "Base.1.0.MalformedJSON", message: "The request is no JSON." } });
        }
        if (given.UserName !== user || given.Password !== password)
          return answer(401, {
            error: { code: "Base.1.0.ResourceAtUriUnauthorized", message: "User or password are wrong." },
          });
        if (sessions.size >= mostSessions)
          return answer(503, { error: { code: "Base.1.0.SessionLimitExceeded", message: "Too many sessions." } });
        const token = randomBytes(16).toString("hex");
        sessions.add(token);
        return answer(
          201,
          { "@odata.id": `${sessionsPath}/${token}`, UserName: user },
          { "x-auth-token": token, location: `${sessionsPath}/${token}` },
        );
      });
      return;
    }
    const found = resources(atSeconds());
    if (path !== "/redfish/v1/" && !isKnown(request))
      return answer(401, { error: { code: "Base.1.0.NoValidSession", message: "There is no valid session." } });
    if (request.method === "DELETE" && path.startsWith(`${sessionsPath}/`))
      return answer(sessions.delete(path.slice(sessionsPath.length + 1)) ? 204 : 404);
    const resource = found[path];
    if (path === "/redfish/v1/" && resource && !hasSessions) return answer(200, { ...resource, Links: {} });
    return resource
      ? answer(200, { "@odata.id": path, ...resource })
      : answer(404, { error: { code: "Base.1.0.ResourceMissingAtURI", message: "There is no such resource." } });
  });
  await new Promise<void>((resolve, reject) => {
    server.once("error", reject);
    server.listen(port, "127.0.0.1", resolve);
  });
  return {
    port: (server.address() as AddressInfo).port,
    sha256,
    sessions,
    close: () =>
      new Promise((resolve) => {
        server.close(() => resolve());
        server.closeAllConnections();
      }),
  };
}
