import type { DeviceField } from "../../../../core/sources/kinds/device-field.ts";
import { type Device, deviceKinds, fieldsOf, kindOf } from "../../../../core/sources/kinds/device-kinds.ts";
import type { SnmpAuthProtocol, SnmpPrivProtocol } from "../../../../core/sources/kinds/snmp.ts";
import type { Credentials, Trust } from "../../../../core/sources/source.ts";

/** What a field of a form holds: seconds for a wait, texts with commas between them for several. */
type FieldValue = string | number | boolean;

/** What is typed about a device that is asked over its own protocol. */
export interface DeviceFields {
  /** By the names of the kind's fields. */
  readonly device: Readonly<Record<string, FieldValue>>;
  readonly community: string;
  readonly user: string;
  readonly password: string;
  readonly level: "none" | "signed" | "sealed";
  readonly authProtocol: SnmpAuthProtocol;
  readonly authKey: string;
  readonly privProtocol: SnmpPrivProtocol;
  readonly privKey: string;
  readonly trust: Trust["kind"];
  readonly sha256: string;
  readonly pem: string;
  /** Whether those of a source that is there already stay. */
  readonly keepsSecret: boolean;
}

/** What stands in the fields of a new device, or of one that is there. */
export function deviceFieldsOf(
  kind: Device["kind"],
  device: Device = deviceKinds[kind].fresh,
  trust: Trust = { kind: "system" },
  hasSecret = false,
): DeviceFields {
  const values = device as unknown as Readonly<Record<string, unknown>>;
  return {
    device: Object.fromEntries(fieldsOf(kind).map((field) => [field.name, typedAs(field, values[field.name])])),
    community: "",
    user: "",
    password: "",
    level: "sealed",
    authProtocol: "sha256",
    authKey: "",
    privProtocol: "aes",
    privKey: "",
    trust: trust.kind,
    sha256: trust.kind === "fingerprint" ? trust.sha256 : "",
    pem: trust.kind === "issuer" ? trust.pem : "",
    keepsSecret: hasSecret,
  };
}

/** The device that the fields say; what they do not say stays as `before` has it. */
export function deviceOf(kind: Device["kind"], { device: typed }: DeviceFields, before?: Device | null): Device {
  const device: Record<string, unknown> = { ...(before ?? deviceKinds[kind].fresh) };
  for (const field of fieldsOf(kind)) {
    const value = saidBy(field, typed[field.name] ?? "");
    if (value === undefined) delete device[field.name];
    else device[field.name] = value;
  }
  return device as unknown as Device;
}

function typedAs(field: DeviceField, value: unknown): FieldValue {
  if (field.holds === "wait") return (value as number) / 1000;
  if (field.holds === "texts") return (value as readonly string[]).join(", ");
  if (field.holds === "choice") return (value as string | undefined) ?? field.absent;
  return value as FieldValue;
}

/** Undefined where a choice that may be left out is as it is without being said. */
function saidBy(field: DeviceField, typed: FieldValue): unknown {
  if (field.holds === "wait") return Math.round(Number(typed) * 1000);
  if (field.holds === "texts")
    return String(typed)
      .split(",")
      .map((text) => text.trim())
      .filter((text) => text !== "");
  if (field.holds === "choice" && field.leftOut && typed === field.absent) return undefined;
  return typeof typed === "string" ? typed.trim() : typed;
}

/** Undefined where those of the source stay. */
export function deviceCredentialsOf(kind: Device["kind"], fields: DeviceFields): Credentials | undefined {
  if (fields.keepsSecret) return undefined;
  const { user, password, level, authProtocol, authKey, privProtocol, privKey, community, device } = fields;
  switch (deviceKinds[kind].credentials) {
    case "none":
      return { kind: "none" };
    case "user and password":
      return { kind: "basic", user, password };
    case "snmp":
      return device["version"] === "3"
        ? { kind: "snmp user", user: user.trim(), level, authProtocol, authKey, privProtocol, privKey }
        : { kind: "community", community };
  }
}

export function deviceTrustOf({ trust, sha256, pem }: DeviceFields): Trust {
  if (trust === "issuer") return { kind: "issuer", pem };
  return trust === "fingerprint" ? { kind: "fingerprint", sha256: sha256.trim() } : { kind: trust };
}

/** Whether the device that the fields say shows a certificate. */
export function showsCertificate(kind: Device["kind"], fields: DeviceFields): boolean {
  const device = deviceOf(kind, fields);
  return kindOf(device).showsCertificate(device);
}
