import { createServer, type Server } from "node:https";
import type { AddressInfo } from "node:net";
import { afterAll, beforeAll, expect, test } from "vitest";
import { selfSigned } from "../../../standins/protocols/self-signed.ts";
import { RedfishGatherer } from "./redfish-gatherer.ts";

// A controller that is not what it seems: where it says that sessions are opened is not on it.

let controller: Server;
let elsewhere: Server;
let sessions = "";
let heard: string[] = [];
const port = (server: Server) => (server.address() as AddressInfo).port;

beforeAll(async () => {
  const { cert, key } = await selfSigned("controller");
  const listen = (server: Server) => new Promise<void>((done) => server.listen(0, "127.0.0.1", done));
  controller = createServer({ cert, key }, (request, response) => {
    response.setHeader("content-type", "application/json");
    response.end(
      JSON.stringify(
        request.url === "/redfish/v1/"
          ? { Links: { Sessions: { "@odata.id": sessions } }, Chassis: { "@odata.id": "/redfish/v1/Chassis" } }
          : { Members: [] },
      ),
    );
  });
  elsewhere = createServer({ cert, key }, (request, response) => {
    let body = "";
    request.on("data", (part) => (body += part));
    request.on("end", () => {
      heard.push(`${request.headers.authorization ?? ""} ${body}`);
      response.end("{}");
    });
  });
  await listen(controller);
  await listen(elsewhere);
});
afterAll(() => {
  controller.close();
  elsewhere.close();
});

test.each([
  () => `@127.0.0.1:${port(elsewhere)}/redfish/v1/Sessions`,
  () => `//127.0.0.1:${port(elsewhere)}/Sessions`,
  () => `https://127.0.0.1:${port(elsewhere)}/Sessions`,
  () => `\\\\127.0.0.1:${port(elsewhere)}\\Sessions`,
])("credentials are not taken elsewhere: sessions at %s", async (path) => {
  sessions = path();
  heard = [];
  const gatherer = new RedfishGatherer(
    { kind: "redfish", host: "127.0.0.1", port: port(controller), timeoutMs: 3000 },
    { kind: "unchecked" },
    { kind: "basic", user: "ines", password: "of the controller" },
  );
  await expect(gatherer.gather()).rejects.toThrow("as a path of its own, which leads elsewhere. It was not asked.");
  await gatherer.close();
  expect(heard).toEqual([]);
});
