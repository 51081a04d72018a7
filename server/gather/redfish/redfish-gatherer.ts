import type { Reading } from "../../../core/counters/reading.ts";
import { setTimeout as delay } from "node:timers/promises";
import { Agent, request } from "undici";
import { linksOf, readRedfish, type Resource } from "../../../core/formats/power/redfish.ts";
import type { RedfishDevice } from "../../../core/sources/kinds/redfish.ts";
import type { Credentials, PullAddress, Trust } from "../../../core/sources/source.ts";
import type { DeviceGatherer, Gathered } from "../device-gatherer.ts";
import { WhichTells } from "../which-tells.ts";
import { diagnose, statusError } from "../../transport/diagnose.ts";
import { PullError } from "../../transport/pull-error.ts";
import { certificateEndMs, trustingConnector } from "../../transport/trusting-connector.ts";

const root = "/redfish/v1/";
/** Where what there is is looked for anew, in gatherings; between, only resources that gave readings are asked. */
const lookEvery = 60;
const mostResources = 400;
const mostBytes = 4 * 1_048_576;
/** How long a controller is waited for when it is left. */
const partingMs = 2000;
const together = 3; // controllers are slow computers

/**
 * Asks a management controller by Redfish (DSP0266): with a session where it has them, else with the credentials at
 * each request.
 */
export class RedfishGatherer implements DeviceGatherer {
  readonly #address: PullAddress;
  readonly #agent: Agent;
  readonly #credentials: Credentials;
  readonly #trust: Trust;
  #certificateUntilMs: number | undefined;
  #round = 0;
  #telling: readonly string[] = [];
  readonly #tells = new WhichTells();
  #token: string | undefined;
  #session: string | undefined;
  #sessions: string | undefined;
  #signing: Promise<void> | undefined;

  constructor(device: RedfishDevice, trust: Trust, credentials: Credentials) {
    this.#address = {
      scheme: device.scheme ?? "https",
      host: device.host,
      port: device.port,
      path: root,
      timeoutMs: device.timeoutMs,
    };
    this.#credentials = credentials;
    this.#trust = trust;
    const connect = trustingConnector(this.#address, trust);
    const noting: typeof connect = (options, callback) =>
      connect(options, (...result) => {
        this.#certificateUntilMs = certificateEndMs(result[1]);
        callback(...result);
      });
    this.#agent = new Agent({
      connect: noting,
      connections: together,
      headersTimeout: device.timeoutMs,
      bodyTimeout: device.timeoutMs,
      keepAliveTimeout: 30_000,
    });
  }

  async gather(_nowMs?: number, only?: ReadonlySet<string>): Promise<Gathered> {
    const looks = this.#telling.length === 0 || (!only && this.#round++ % lookEvery === 0);
    const wanted = only ? this.#telling.filter((path) => this.#tells.may(path, only)) : this.#telling;
    const resources = looks ? await this.#crawl() : await this.#fetchAll(wanted);
    const readings = readingsOf(resources);
    if (looks)
      this.#telling = [...resources].filter(([path, resource]) => this.#learn(path, resource)).map(([path]) => path);
    if (only && !looks && wanted.length === 0) return { readings: [], raw: "", rawType: "application/json" };
    if (readings.length === 0) {
      this.#telling = [];
      throw new PullError(
        "not the format",
        "The controller answered, and told of no power, temperature, fan or health.",
        "Look at the text as received; the user may need the right to read sensors.",
      );
    }
    return {
      readings,
      raw: JSON.stringify(Object.fromEntries(resources), null, 1),
      rawType: "application/json",
      certificateUntilMs: this.#certificateUntilMs,
    };
  }

  /** Notes of which counters a resource tells; whether it tells of any. */
  #learn(path: string, resource: Resource): boolean {
    const readings = readingsOf(new Map([[path, resource]]));
    for (const { counter } of readings) this.#tells.note(path, counter);
    return readings.length > 0;
  }

  async close(): Promise<void> {
    // Controllers have few places for sessions: ours is given back.
    if (this.#session !== undefined)
      await Promise.race([
        this.#ask("DELETE", this.#session).catch(() => {}),
        delay(partingMs, undefined, { ref: false }),
      ]);
    await this.#agent.destroy();
  }

  async #crawl(): Promise<Map<string, Resource>> {
    const top = await this.#resource(root, false);
    this.#sessions = ((top["Links"] as Resource | undefined)?.["Sessions"] as Resource | undefined)?.["@odata.id"] as
      | string
      | undefined;
    const found = new Map<string, Resource>();
    let next = linksOf(top);
    while (next.length > 0 && found.size < mostResources) {
      const layer = await this.#fetchAll(next.slice(0, mostResources - found.size));
      for (const [path, resource] of layer) found.set(path, resource);
      next = [...new Set([...layer.values()].flatMap(linksOf))].filter((path) => !found.has(path));
    }
    return found;
  }

  async #fetchAll(paths: readonly string[]): Promise<Map<string, Resource>> {
    const found = new Map<string, Resource>();
    const waiting = [...paths];
    const work = async () => {
      for (let path = waiting.shift(); path !== undefined; path = waiting.shift()) {
        try {
          found.set(path, await this.#resource(path, true));
        } catch (error) {
          // what a controller lists and does not have is left out
          if (!(error instanceof PullError && error.kind === "wrong path")) throw error;
        }
      }
    };
    await Promise.all(Array.from({ length: together }, work));
    return new Map(paths.flatMap((path) => (found.has(path) ? [[path, found.get(path) as Resource] as const] : [])));
  }

  async #resource(path: string, signed: boolean): Promise<Resource> {
    if (signed && this.#token === undefined) await this.#signInOnce();
    const token = this.#token;
    let answer = await this.#ask("GET", path, signed);
    if (answer.status === 401 && signed && token !== "") {
      // The session has ended: sessions of controllers run out. Several questions at once notice it, one signs in.
      if (this.#token === token) this.#token = this.#session = undefined;
      if (this.#token === undefined) await this.#signInOnce();
      answer = await this.#ask("GET", path, signed);
    }
    if (answer.status !== 200)
      throw statusError(answer.status, undefined, { ...this.#address, path }, this.#credentials.kind !== "none");
    try {
      const json: unknown = JSON.parse(answer.text);
      if (typeof json !== "object" || json === null || Array.isArray(json)) throw new SyntaxError("no object");
      return json as Resource;
    } catch (error) {
      throw new PullError(
        "not the format",
        `What came from ${path} is not JSON.`,
        "Look whether this is the address of the management controller itself, and whether Redfish is switched on there.",
        { cause: error },
      );
    }
  }

  #signInOnce(): Promise<void> {
    this.#signing ??= this.#signIn().finally(() => {
      this.#signing = undefined;
    });
    return this.#signing;
  }

  async #signIn(): Promise<void> {
    if (this.#credentials.kind !== "basic" || !this.#sessions) {
      this.#token = "";
      return;
    }
    const { user, password } = this.#credentials;
    const answer = await this.#ask(
      "POST",
      this.#sessions,
      false,
      JSON.stringify({ UserName: user, Password: password }),
    );
    if (answer.status === 401 || answer.status === 400)
      throw new PullError(
        "wrong credentials",
        "The controller refuses the user or the password.",
        "Enter them anew; after some wrong ones, controllers close the account for a while.",
      );
    if (answer.status === 403)
      throw new PullError(
        "not allowed",
        "The user may not sign in to the controller.",
        "Give it the right to sign in and to read sensors.",
      );
    if (answer.status === 503)
      throw new PullError(
        "refused",
        "The controller has no place for another session.",
        "End old sessions on the controller, or wait until they have run out.",
      );
    this.#token = answer.status === 200 || answer.status === 201 ? (answer.token ?? "") : "";
    this.#session = this.#token === "" ? undefined : answer.location;
  }

  async #ask(
    method: "GET" | "POST" | "DELETE",
    path: string,
    signed = true,
    body?: string,
  ): Promise<{ status: number; text: string; token: string | undefined; location: string | undefined }> {
    const { scheme, host, port, timeoutMs } = this.#address;
    const origin = `${scheme}://${host.includes(":") ? `[${host}]` : host}:${port}`;
    // A controller names paths of its own; one that leads elsewhere ("//host/", "@host/") would take the credentials
    // with it.
    const url = URL.canParse(path, origin) ? new URL(path, origin) : undefined;
    if (!path.startsWith("/") || url?.origin !== new URL(origin).origin || url.username !== "")
      throw new PullError(
        "not the format",
        `The controller names ${JSON.stringify(path.slice(0, 100))} as a path of its own, which leads elsewhere. It was not asked.`,
        "Look whether this is the address of the management controller itself.",
      );
    try {
      const answer = await request(url, {
        method,
        dispatcher: this.#agent,
        headers: {
          accept: "application/json",
          "odata-version": "4.0",
          ...(signed && this.#identity()),
          ...(body !== undefined && { "content-type": "application/json" }),
        },
        signal: AbortSignal.timeout(timeoutMs),
        ...(body !== undefined && { body }),
      });
      const pieces: Buffer[] = [];
      let size = 0;
      for await (const piece of answer.body as AsyncIterable<Buffer>) {
        size += piece.length;
        if (size > mostBytes)
          throw new PullError(
            "too large",
            `The answer from ${path} is longer than 4 MiB.`,
            "Look at what answers there.",
          );
        pieces.push(piece);
      }
      const location = answer.headers["location"];
      return {
        status: answer.statusCode,
        text: Buffer.concat(pieces).toString("utf8"),
        token: answer.headers["x-auth-token"] as string | undefined,
        location: Array.isArray(location) ? location[0] : location && new URL(location, "https://x").pathname,
      };
    } catch (error) {
      throw await diagnose(error, this.#address, "connecting", this.#trust);
    }
  }

  #identity(): Record<string, string> {
    if (this.#token) return { "x-auth-token": this.#token };
    return this.#credentials.kind === "basic"
      ? {
          authorization: `Basic ${Buffer.from(`${this.#credentials.user}:${this.#credentials.password}`).toString("base64")}`,
        }
      : {};
  }
}

function readingsOf(resources: ReadonlyMap<string, Resource>): Reading[] {
  const readings: Reading[] = [];
  readRedfish(resources, (counter, tags, value) => readings.push({ counter, tags, value }));
  return readings;
}
