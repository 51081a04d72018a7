import type { ReactNode } from "react";
import type { UseFormReturn } from "react-hook-form";
import {
  type Device,
  type SnmpAuthProtocol,
  type SnmpPrivProtocol,
  snmpAuthProtocols,
  snmpPrivProtocols,
} from "../../../../core/sources/device.ts";
import { snmpModuleNames } from "../../../../core/formats/snmp/snmp-modules.ts";
import type { Credentials, Trust } from "../../../../core/sources/source.ts";
import { TrustFieldset } from "./trust-fieldset.tsx";

/** What is typed about a device that is asked over its own protocol; each kind uses its part. */
export interface DeviceFields {
  readonly host: string;
  readonly port: number;
  readonly timeoutSeconds: number;
  readonly version: "1" | "2c" | "3";
  readonly transport: "udp" | "tcp";
  readonly scheme: "http" | "https";
  readonly community: string;
  readonly user: string;
  readonly password: string;
  readonly level: "none" | "signed" | "sealed";
  readonly authProtocol: SnmpAuthProtocol;
  readonly authKey: string;
  readonly privProtocol: SnmpPrivProtocol;
  readonly privKey: string;
  readonly ups: string;
  readonly from: string;
  readonly socket: string;
  readonly labels: string;
  readonly command: boolean;
  readonly trust: Trust["kind"];
  readonly sha256: string;
  readonly pem: string;
  /** Whether those of a source that is there already stay. */
  readonly keepsSecret: boolean;
}

const ports: Readonly<Record<Device["kind"], number>> = {
  snmp: 161,
  redfish: 443,
  ipmi: 623,
  ups: 3493,
  containers: 0,
  flow: 4739,
};
const waits: Readonly<Record<Device["kind"], number>> = {
  snmp: 5,
  redfish: 15,
  ipmi: 10,
  ups: 5,
  containers: 5,
  flow: 30,
};

/** What stands in the fields of a new device, or of one that is there. */
export function deviceFieldsOf(
  kind: Device["kind"],
  device?: Device,
  trust: Trust = { kind: "system" },
  hasSecret = false,
): DeviceFields {
  return {
    host:
      device && device.kind !== "containers"
        ? device.host
        : kind === "ups"
          ? "127.0.0.1"
          : kind === "flow"
            ? "0.0.0.0"
            : "",
    port: device && device.kind !== "containers" ? device.port : ports[kind],
    timeoutSeconds: device ? device.timeoutMs / 1000 : waits[kind],
    version: device?.kind === "snmp" ? device.version : "2c",
    scheme: device?.kind === "redfish" ? (device.scheme ?? "https") : "https",
    transport: device?.kind === "snmp" ? (device.transport ?? "udp") : "udp",
    community: "",
    user: "",
    password: "",
    level: "sealed",
    authProtocol: "sha256",
    authKey: "",
    privProtocol: "aes",
    privKey: "",
    ups: device?.kind === "ups" ? device.ups : "ups",
    from: device?.kind === "flow" ? device.from : "",
    socket: device?.kind === "containers" ? device.socket : "/run/docker.sock",
    labels: device?.kind === "containers" ? device.labels.join(", ") : "",
    command: device?.kind === "containers" && device.command,
    trust: trust.kind,
    sha256: trust.kind === "fingerprint" ? trust.sha256 : "",
    pem: trust.kind === "issuer" ? trust.pem : "",
    keepsSecret: hasSecret,
  };
}

/** The device that the fields say; what they do not say stays as `before` has it. */
export function deviceOf(kind: Device["kind"], fields: DeviceFields, before?: Device | null): Device {
  const timeoutMs = Math.round(fields.timeoutSeconds * 1000);
  const place = { host: fields.host.trim(), port: fields.port, timeoutMs };
  switch (kind) {
    case "snmp":
      return {
        kind,
        ...place,
        version: fields.version,
        ...(fields.transport === "tcp" && { transport: "tcp" as const }),
        modules: before?.kind === "snmp" ? before.modules : snmpModuleNames,
        numbers: before?.kind === "snmp" ? before.numbers : [],
      };
    case "redfish":
      return { kind, ...place, ...(fields.scheme === "http" && { scheme: "http" as const }) };
    case "ipmi":
      return { kind, ...place };
    case "flow":
      return { kind, ...place, from: fields.from.trim() };
    case "ups":
      return { kind, ...place, ups: fields.ups.trim() };
    case "containers":
      return {
        kind,
        socket: fields.socket.trim(),
        timeoutMs,
        rules: before?.kind === "containers" ? before.rules : [],
        labels: fields.labels
          .split(",")
          .map((label) => label.trim())
          .filter((label) => label !== ""),
        command: fields.command,
      };
  }
}

/** Undefined where those of the source stay. */
export function deviceCredentialsOf(kind: Device["kind"], fields: DeviceFields): Credentials | undefined {
  if (fields.keepsSecret) return undefined;
  const { user, password, level, authProtocol, authKey, privProtocol, privKey, community } = fields;
  if (kind === "redfish" || kind === "ipmi") return { kind: "basic", user, password };
  if (kind !== "snmp") return { kind: "none" };
  return fields.version === "3"
    ? { kind: "snmp user", user: user.trim(), level, authProtocol, authKey, privProtocol, privKey }
    : { kind: "community", community };
}

export function deviceTrustOf({ trust, sha256, pem }: DeviceFields): Trust {
  if (trust === "issuer") return { kind: "issuer", pem };
  return trust === "fingerprint" ? { kind: "fingerprint", sha256: sha256.trim() } : { kind: trust };
}

const methodWords: Readonly<Record<string, string>> = {
  md5: "MD5",
  sha: "SHA-1",
  sha224: "SHA-224",
  sha256: "SHA-256",
  sha384: "SHA-384",
  sha512: "SHA-512",
  des: "DES",
  aes: "AES (128 bits)",
  aes256b: "AES 256, key by Blumenthal's draft",
  aes256r: "AES 256, key by Reeder's draft",
};

/** Where the device is, and who we say we are. */
export function DeviceFieldset({
  kind,
  form,
  hasSecret = false,
}: {
  kind: Device["kind"];
  form: UseFormReturn<DeviceFields>;
  hasSecret?: boolean;
}): ReactNode {
  const { register } = form;
  if (kind === "containers") return <EngineFields form={form} />;
  if (kind === "flow") return <FlowFields form={form} />;
  return (
    <div className="flex flex-col gap-3">
      <p className="flex flex-wrap items-center gap-1.5">
        Ask{" "}
        {kind === "ups" && (
          <>
            <input
              aria-label="the supply's name there"
              className="w-32"
              autoComplete="off"
              {...register("ups", { required: true })}
            />{" "}
            at{" "}
          </>
        )}
        <input
          aria-label="name or address"
          placeholder={kind === "snmp" ? "gate.quay" : kind === "ups" ? "vault.quay" : "hive-controller.quay"}
          className="w-56"
          autoComplete="off"
          {...register("host", { required: true })}
        />
        :
        <input
          type="number"
          aria-label="port"
          min="1"
          max="65535"
          className="figure w-24 text-right"
          {...register("port", { valueAsNumber: true, required: true })}
        />
        {kind === "redfish" && (
          <>
            {" "}
            over{" "}
            <select aria-label="scheme" {...register("scheme")}>
              <option value="https">https</option>
              <option value="http">http</option>
            </select>
            {form.watch("scheme") === "http" && (
              <span className="text-notice">everybody on the way reads the password</span>
            )}
          </>
        )}
        {kind === "snmp" && (
          <>
            {" "}
            by SNMP version{" "}
            <select aria-label="version" {...register("version")}>
              <option value="2c">2c</option>
              <option value="3">3</option>
              <option value="1">1</option>
            </select>{" "}
            over{" "}
            <select aria-label="transport" {...register("transport")}>
              <option value="udp">UDP</option>
              <option value="tcp">TCP</option>
            </select>
          </>
        )}{" "}
        and wait{" "}
        <input
          type="number"
          aria-label="time-out in seconds"
          min="0.1"
          max="60"
          step="any"
          className="figure w-20 text-right"
          {...register("timeoutSeconds", { valueAsNumber: true, required: true })}
        />{" "}
        s at most
      </p>
      {kind !== "ups" && <Who kind={kind} form={form} hasSecret={hasSecret} />}
      {kind === "redfish" && form.watch("scheme") === "https" && (
        <TrustFieldset register={register} trust={form.watch("trust")} />
      )}
    </div>
  );
}

function Who({
  kind,
  form,
  hasSecret,
}: {
  kind: Device["kind"];
  form: UseFormReturn<DeviceFields>;
  hasSecret: boolean;
}): ReactNode {
  const { register, watch } = form;
  const [version, level, keeps] = watch(["version", "level", "keepsSecret"]);
  return (
    <>
      {hasSecret && (
        <label className="flex items-center gap-2">
          <input type="checkbox" className="accent-act" {...register("keepsSecret")} /> as who we were before
        </label>
      )}
      {!keeps && kind !== "snmp" && (
        <p className="flex flex-wrap items-center gap-1.5">
          as <input aria-label="user" placeholder="user" className="w-40" autoComplete="off" {...register("user")} />{" "}
          with the password{" "}
          <input
            type="password"
            aria-label="password"
            className="w-52"
            autoComplete="new-password"
            {...register("password")}
          />
        </p>
      )}
      {!keeps && kind === "snmp" && version !== "3" && (
        <p className="flex flex-wrap items-center gap-1.5">
          with the community{" "}
          <input
            type="password"
            aria-label="community"
            className="w-52"
            autoComplete="new-password"
            {...register("community", { required: true })}
          />
        </p>
      )}
      {!keeps && kind === "snmp" && version === "3" && (
        <div className="flex flex-col gap-3">
          <p className="flex flex-wrap items-center gap-1.5">
            as the user{" "}
            <input aria-label="user" className="w-44" autoComplete="off" {...register("user", { required: true })} />,{" "}
            <select aria-label="level" {...register("level")}>
              <option value="sealed">signed and sealed</option>
              <option value="signed">signed only</option>
              <option value="none">neither signed nor sealed</option>
            </select>
          </p>
          {level !== "none" && (
            <p className="flex flex-wrap items-center gap-1.5">
              signing by{" "}
              <select aria-label="method of signing" {...register("authProtocol")}>
                {snmpAuthProtocols.map((name) => (
                  <option key={name} value={name}>
                    {methodWords[name]}
                  </option>
                ))}
              </select>{" "}
              with the key{" "}
              <input
                type="password"
                aria-label="authentication key"
                className="w-52"
                autoComplete="new-password"
                {...register("authKey")}
              />
            </p>
          )}
          {level === "sealed" && (
            <p className="flex flex-wrap items-center gap-1.5">
              sealing by{" "}
              <select aria-label="method of sealing" {...register("privProtocol")}>
                {snmpPrivProtocols.map((name) => (
                  <option key={name} value={name}>
                    {methodWords[name]}
                  </option>
                ))}
              </select>{" "}
              with the key{" "}
              <input
                type="password"
                aria-label="privacy key"
                className="w-52"
                autoComplete="new-password"
                {...register("privKey")}
              />
            </p>
          )}
        </div>
      )}
    </>
  );
}

function FlowFields({ form: { register } }: { form: UseFormReturn<DeviceFields> }): ReactNode {
  return (
    <div className="flex flex-col gap-3">
      <p className="flex flex-wrap items-center gap-1.5">
        Listen at UDP port{" "}
        <input
          type="number"
          aria-label="port"
          min="1"
          max="65535"
          className="figure w-24 text-right"
          {...register("port", { valueAsNumber: true, required: true })}
        />{" "}
        of{" "}
        <input
          aria-label="this machine's address"
          className="figure w-40"
          autoComplete="off"
          {...register("host", { required: true })}
        />{" "}
        <span className="text-quiet">(0.0.0.0: every address of this machine)</span>
      </p>
      <p className="flex flex-wrap items-center gap-1.5">
        for what the router sends from{" "}
        <input
          aria-label="the router's address"
          placeholder="192.0.2.1"
          className="figure w-40"
          autoComplete="off"
          {...register("from")}
        />{" "}
        <span className="text-quiet">(empty: from anywhere)</span> and wait{" "}
        <input
          type="number"
          aria-label="time-out in seconds"
          min="0.1"
          max="60"
          step="any"
          className="figure w-20 text-right"
          {...register("timeoutSeconds", { valueAsNumber: true, required: true })}
        />{" "}
        s at first
      </p>
      <p className="max-w-prose text-quiet">
        Enter this machine's address and that port at the router, as the collector of IPFIX or of version 9 before it,
        with a template at least every minute.
      </p>
    </div>
  );
}

function EngineFields({ form: { register } }: { form: UseFormReturn<DeviceFields> }): ReactNode {
  return (
    <div className="flex flex-col gap-3">
      <p className="flex flex-wrap items-center gap-1.5">
        Ask the engine at{" "}
        <input aria-label="path of the socket" className="figure w-72" autoComplete="off" {...register("socket")} />{" "}
        <span className="text-quiet">on the machine that Nubrel runs on; empty: control groups alone</span>
      </p>
      <p className="flex flex-wrap items-center gap-1.5">
        Labels that become tags:{" "}
        <input
          aria-label="labels"
          placeholder="role, tier"
          className="w-64"
          autoComplete="off"
          {...register("labels")}
        />
      </p>
      <label className="flex items-center gap-2">
        <input type="checkbox" className="accent-act" {...register("command")} /> the command becomes a tag
      </label>
    </div>
  );
}
