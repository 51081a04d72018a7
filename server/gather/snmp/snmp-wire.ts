import snmp from "net-snmp";
import { isIPv6 } from "node:net";
import type { SnmpCredentials, SnmpDevice } from "../../../core/sources/device.ts";
import { snmpType, type VarBind } from "../../../core/formats/snmp/var-bind.ts";
import { snmpError } from "./snmp-error.ts";

/** Asks a device for variables. Errors are PullErrors. */
export interface SnmpWire {
  /** The variables of these numbers; value null where the device has none. */
  get(oids: readonly string[]): Promise<readonly VarBind[]>;
  /** For each number what follows it, up to `repetitions` variables, in the order of `oids`; a device may answer fewer. Value null at the end of what there is. */
  next(oids: readonly string[], repetitions: number): Promise<readonly (readonly VarBind[])[]>;
  close(): void;
}

const levels = { none: snmp.SecurityLevel.noAuthNoPriv, signed: snmp.SecurityLevel.authNoPriv, sealed: snmp.SecurityLevel.authPriv } as const;
/** Of net-snmp, by our names (RFC 7860, RFC 3826). */
const authProtocols = snmp.AuthProtocols as unknown as Readonly<Record<string, snmp.AuthProtocols>>;
const privProtocols = snmp.PrivProtocols as unknown as Readonly<Record<string, snmp.PrivProtocols>>;
const noSuch: ReadonlySet<number> = new Set([snmp.ObjectType.NoSuchObject, snmp.ObjectType.NoSuchInstance, snmp.ObjectType.EndOfMibView]);
const noSuchName = 2; // RFC 3416: noSuchName(2), how version 1 says that there is nothing (more)
const tooBig = 1;

/** A session with a device over UDP. */
export class SnmpSession implements SnmpWire {
  readonly #session: snmp.Session;
  readonly #device: SnmpDevice;

  constructor(device: SnmpDevice, credentials: SnmpCredentials) {
    this.#device = device;
    const options = { port: device.port, timeout: device.timeoutMs / (retries + 1), retries, transport: isIPv6(device.host) ? "udp6" : "udp4", backwardsGetNexts: true, idBitsSize: 32 } as const;
    this.#session = credentials.kind === "snmp user" ? snmp.createV3Session(device.host, userOf(credentials), { ...options, version: snmp.Version3 } as never) : snmp.createSession(device.host, credentials.kind === "community" ? credentials.community : "public", { ...options, version: device.version === "1" ? snmp.Version1 : snmp.Version2c } as never);
    this.#session.on("error", () => {}); // what cannot be read is as if it had not come: the request runs into its time-out
  }

  async get(oids: readonly string[]): Promise<readonly VarBind[]> {
    const binds = await this.#ask((done) => this.#session.get([...oids], done), oids);
    // Version 1 refuses the whole request where it lacks one of them (RFC 1157 §4.1.2): each is asked for itself then.
    if (this.#device.version !== "1" || oids.length < 2 || binds.some(({ value }) => value !== null)) return binds;
    const each: VarBind[] = [];
    for (const oid of oids) each.push(...(await this.get([oid])));
    return each;
  }

  async next(oids: readonly string[], repetitions: number): Promise<readonly (readonly VarBind[])[]> {
    if (this.#device.version === "1") return (await this.#ask((done) => this.#session.getNext([...oids], done), oids)).map((bind) => [bind]);
    for (let wanted = repetitions; ; wanted = Math.floor(wanted / 2)) {
      try {
        return await this.#askColumns(oids, wanted);
      } catch (error) {
        if ((error as { cause?: { status?: number } }).cause?.status !== tooBig || wanted <= 1) throw error;
      }
    }
  }

  close(): void {
    this.#session.close();
  }

  #askColumns(oids: readonly string[], repetitions: number): Promise<readonly (readonly VarBind[])[]> {
    return new Promise((resolve, reject) => {
      this.#session.getBulk([...oids], 0, repetitions, (error, columns) => {
        if (error) reject(snmpError(error, this.#device));
        else resolve(((columns ?? []) as unknown as snmp.Varbind[][]).map((column) => column.map(bindOf)));
      });
    });
  }

  #ask(send: (done: (error: Error | null, varbinds?: snmp.Varbind[]) => void) => unknown, oids: readonly string[]): Promise<readonly VarBind[]> {
    return new Promise((resolve, reject) => {
      send((error, varbinds) => {
        if (!error) resolve((varbinds ?? []).map(bindOf));
        else if ((error as { status?: number }).status === noSuchName && this.#device.version === "1") resolve(oids.map((oid) => ({ oid, type: snmp.ObjectType.NoSuchObject, value: null })));
        else reject(snmpError(error, this.#device));
      });
    });
  }
}

const retries = 1;

function bindOf({ oid, type, value }: snmp.Varbind): VarBind {
  const kind = type as number;
  if (noSuch.has(kind)) return { oid, type: kind, value: null };
  if (kind === snmpType.counter64 && value instanceof Uint8Array) return { oid, type: kind, value: value.reduce((sum, byte) => sum * 256 + byte, 0) };
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
