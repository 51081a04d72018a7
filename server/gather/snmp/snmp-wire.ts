import snmp from "net-snmp";
import { isIPv6 } from "node:net";
import type { SnmpCredentials, SnmpDevice } from "../../../core/sources/kinds/snmp.ts";
import { snmpType, type VarBind } from "../../../core/formats/snmp/var-bind.ts";
import { PullError } from "../../transport/pull-error.ts";
import { provideDes } from "./des-privacy.ts";
import { isOutOfStep, snmpError } from "./snmp-error.ts";
import { TcpMessages } from "./tcp-messages.ts";

provideDes();

/** Asks a device for variables. Errors are PullErrors. */
export interface SnmpWire {
  /** The variables of these numbers; value null where the device has none. */
  get(oids: readonly string[]): Promise<readonly VarBind[]>;
  /**
   * For each number what follows it, up to `repetitions` variables, in the order of `oids`; a device may answer fewer.
   * Value null at the end of what there is.
   */
  next(oids: readonly string[], repetitions: number): Promise<readonly (readonly VarBind[])[]>;
  close(): void;
}

const levels = {
  none: snmp.SecurityLevel.noAuthNoPriv,
  signed: snmp.SecurityLevel.authNoPriv,
  sealed: snmp.SecurityLevel.authPriv,
} as const;
/** Of net-snmp, by our names (RFC 7860, RFC 3826). */
const authProtocols = snmp.AuthProtocols as unknown as Readonly<Record<string, snmp.AuthProtocols>>;
const privProtocols = snmp.PrivProtocols as unknown as Readonly<Record<string, snmp.PrivProtocols>>;
const noSuch: ReadonlySet<number> = new Set([
  snmp.ObjectType.NoSuchObject,
  snmp.ObjectType.NoSuchInstance,
  snmp.ObjectType.EndOfMibView,
]);
const noSuchName = 2; // RFC 3416: noSuchName(2), how version 1 says that there is nothing (more)
const tooBig = 1;

/** A session with a device over UDP or TCP. It speaks the version that the device is set to, and no other. */
export class SnmpSession implements SnmpWire {
  readonly #device: SnmpDevice;
  readonly #credentials: SnmpCredentials;
  #session: snmp.Session | undefined;

  constructor(device: SnmpDevice, credentials: SnmpCredentials) {
    this.#device = device;
    this.#credentials = credentials;
  }

  async get(oids: readonly string[]): Promise<readonly VarBind[]> {
    const binds = await this.#ask((session, done) => session.get([...oids], done), oids);
    // Version 1 refuses the whole request where it lacks one of them (RFC 1157 §4.1.2): each is asked for itself then.
    if (this.#device.version !== "1" || oids.length < 2 || binds.some(({ value }) => value !== null)) return binds;
    const each: VarBind[] = [];
    for (const oid of oids) each.push(...(await this.get([oid])));
    return each;
  }

  async next(oids: readonly string[], repetitions: number): Promise<readonly (readonly VarBind[])[]> {
    if (this.#device.version === "1")
      return (await this.#ask((session, done) => session.getNext([...oids], done), oids)).map((bind) => [bind]);
    for (let wanted = repetitions; ; wanted = Math.floor(wanted / 2)) {
      try {
        return await this.#askColumns(oids, wanted);
      } catch (error) {
        if ((error as { cause?: { status?: number } }).cause?.status !== tooBig || wanted <= 1) throw error;
      }
    }
  }

  close(): void {
    this.#session?.close();
    this.#session = undefined;
  }

  async #askColumns(oids: readonly string[], repetitions: number): Promise<readonly (readonly VarBind[])[]> {
    const columns = await this.#inStep<snmp.Varbind[][]>((session, done) =>
      session.getBulk([...oids], 0, repetitions, (error, columns) =>
        done(error, columns as unknown as snmp.Varbind[][]),
      ),
    );
    return columns.map((column) => column.map(bindOf));
  }

  async #ask(
    send: (session: snmp.Session, done: (error: Error | null, varbinds?: snmp.Varbind[]) => void) => unknown,
    oids: readonly string[],
  ): Promise<readonly VarBind[]> {
    try {
      return (await this.#inStep(send)).map(bindOf);
    } catch (error) {
      if ((error as { cause?: { status?: number } }).cause?.status === noSuchName && this.#device.version === "1")
        return oids.map((oid) => ({ oid, type: snmp.ObjectType.NoSuchObject, value: null }));
      throw error;
    }
  }

  /**
   * Asks, and where an agent of version 3 is another one than this session knows (it was restarted and counts its
   * starts anew, or has a new name), learns its engine, starts and time
   * afresh (RFC 3414 §4) and asks once more.
   */
  async #inStep<T extends readonly unknown[]>(
    send: (session: snmp.Session, done: (error: Error | null, answer?: T) => void) => unknown,
  ): Promise<T> {
    for (let isSecond = false; ; isSecond = true) {
      this.#session ??= this.#open();
      const session = this.#session;
      try {
        return await new Promise<T>((resolve, reject) =>
          send(session, (error, answer) => (error ? reject(error) : resolve(answer ?? ([] as unknown as T)))),
        );
      } catch (error) {
        const isKnown = isOutOfStep(error as Error);
        // Silence may be an agent with another engine, too: the next asking begins afresh.
        if (
          this.#device.version === "3" &&
          this.#session === session &&
          (isKnown || (error as Error).name === "RequestTimedOutError")
        )
          this.close();
        if (isSecond || !isKnown || this.#device.version !== "3") throw snmpError(error as Error, this.#device);
      }
    }
  }

  #open(): snmp.Session {
    const { host, port, version, timeoutMs, transport } = this.#device;
    const credentials = this.#credentials;
    const isUser = credentials.kind === "snmp user";
    if (isUser !== (version === "3")) {
      const words =
        version === "3"
          ? "The source asks by version 3, and a community was entered for it: that is of versions 1 and 2c, and is never sent instead."
          : `The source asks by version ${version}, and a user was entered for it: that is of version 3.`;
      throw new PullError(
        "wrong credentials",
        words,
        version === "3" ? "Enter the user and its keys." : "Enter the community, or choose version 3.",
      );
    }
    const retries = transport === "tcp" ? 0 : udpRetries; // TCP sends again by itself
    const options = {
      port,
      timeout: timeoutMs / (retries + 1),
      retries,
      transport: isIPv6(host) ? "udp6" : "udp4",
      backwardsGetNexts: true,
      idBitsSize: 32,
      ...(transport === "tcp" && { dgramModule: { createSocket: () => new TcpMessages() } }),
    } as const;
    const session = isUser
      ? snmp.createV3Session(host, userOf(credentials), { ...options, version: snmp.Version3 } as never)
      : snmp.createSession(host, credentials.community, {
          ...options,
          version: version === "1" ? snmp.Version1 : snmp.Version2c,
        } as never);
    session.on("error", () => {}); // what cannot be read is as if it had not come: the request runs into its time-out
    return session;
  }
}

const udpRetries = 1;

function bindOf({ oid, type, value }: snmp.Varbind): VarBind {
  const kind = type as number;
  if (noSuch.has(kind)) return { oid, type: kind, value: null };
  if (kind === snmpType.counter64 && value instanceof Uint8Array)
    return { oid, type: kind, value: value.reduce((sum, byte) => sum * 256 + byte, 0) };
  if (typeof value === "boolean") return { oid, type: kind, value: value ? 1 : 0 };
  return { oid, type: kind, value: (value as VarBind["value"]) ?? null };
}

function userOf(user: Extract<SnmpCredentials, { kind: "snmp user" }>): snmp.User {
  return {
    name: user.user,
    level: levels[user.level],
    ...(user.level !== "none" && { authProtocol: authProtocols[user.authProtocol], authKey: user.authKey }),
    ...(user.level === "sealed" && { privProtocol: privProtocols[user.privProtocol], privKey: user.privKey }),
  } as snmp.User;
}
