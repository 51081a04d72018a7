import type { ReactNode } from "react";
import type { UseFormReturn } from "react-hook-form";
import { TrustFieldset } from "./trust-fieldset.tsx";
import type { Credentials, PullAddress, Trust } from "../../../../core/sources/source.ts";

/** What is typed about an address that is asked. */
export interface PullFields {
  readonly scheme: "http" | "https";
  readonly host: string;
  readonly port: number;
  readonly path: string;
  readonly timeoutSeconds: number;
  readonly trust: Trust["kind"];
  readonly sha256: string;
  readonly pem: string;
  /** "keep" leaves those of a source that is there already. */
  readonly credentials: Credentials["kind"] | "keep";
  readonly user: string;
  readonly secret: string;
}

export const defaultPullFields: PullFields = {
  scheme: "http",
  host: "",
  port: 9100,
  path: "/metrics",
  timeoutSeconds: 5,
  trust: "system",
  sha256: "",
  pem: "",
  credentials: "none",
  user: "",
  secret: "",
};

export function addressOf({ scheme, host, port, path, timeoutSeconds }: PullFields): PullAddress {
  return {
    scheme,
    host: host.trim(),
    port,
    path: path.trim() || "/metrics",
    timeoutMs: Math.round(timeoutSeconds * 1000),
  };
}

/**
 * What stands in the field of the name, where a whole address was typed or pasted there: with or without http://, port
 * and path.
 */
export function splitAddress(text: string): Partial<PullFields> | undefined {
  const found = /^(?:(https?):\/\/)?(\[[0-9a-f:]+\]|[^\s/:?#@]+)(?::(\d{1,5}))?(\/\S*)?$/i.exec(text.trim());
  if (!found) return undefined;
  const [, scheme, host, port, path] = found as unknown as [
    string,
    string | undefined,
    string,
    string | undefined,
    string | undefined,
  ];
  if (scheme === undefined && port === undefined && path === undefined) return undefined;
  const defaultPort = scheme?.toLowerCase() === "https" ? 443 : scheme === undefined ? undefined : 80;
  const at = port === undefined ? defaultPort : Number(port);
  return {
    host: host.replace(/^\[|\]$/g, ""),
    ...(scheme !== undefined && { scheme: scheme.toLowerCase() as "http" | "https" }),
    ...(at !== undefined && { port: at }),
    ...(path !== undefined && path !== "/" && { path }),
  };
}

export function trustOf({ scheme, trust, sha256, pem }: PullFields): Trust {
  if (scheme === "http") return { kind: "system" };
  if (trust === "issuer") return { kind: "issuer", pem };
  return trust === "fingerprint" ? { kind: "fingerprint", sha256: sha256.trim() } : { kind: trust };
}

/** Undefined where they stay as they are. */
export function credentialsOf({ credentials, user, secret }: PullFields): Credentials | undefined {
  if (credentials === "keep") return undefined;
  if (credentials === "basic") return { kind: "basic", user, password: secret };
  return credentials === "bearer" ? { kind: "bearer", token: secret } : { kind: "none" };
}

/** The address, who we say we are, and whom we believe: one sentence each. */
export function PullFieldset({
  form,
  hasSecret = false,
}: {
  form: UseFormReturn<PullFields>;
  hasSecret?: boolean;
}): ReactNode {
  const { register, watch, setValue } = form;
  const split = (text: string) => {
    for (const [name, value] of Object.entries(splitAddress(text) ?? {}))
      setValue(name as keyof PullFields, value as never);
  };
  const [scheme, trust, credentials] = watch(["scheme", "trust", "credentials"]);
  return (
    <div className="flex flex-col gap-3">
      <p className="flex flex-wrap items-center gap-1.5">
        Ask{" "}
        <select aria-label="http or https" {...register("scheme")}>
          <option value="http">http</option>
          <option value="https">https</option>
        </select>
        ://
        <input
          aria-label="name or address"
          placeholder="gate.quay"
          className="w-52"
          autoComplete="off"
          {...register("host", {
            required: true,
            onBlur: ({ target }: { target: HTMLInputElement }) => split(target.value),
          })}
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
        <input aria-label="path" className="w-44" autoComplete="off" {...register("path")} /> and wait{" "}
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
      <p className="flex flex-wrap items-center gap-1.5">
        signing in with{" "}
        <select aria-label="credentials" {...register("credentials")}>
          {hasSecret && <option value="keep">what was entered before</option>}
          <option value="none">nothing</option>
          <option value="basic">a name and a password</option>
          <option value="bearer">a token</option>
        </select>
        {credentials === "basic" && (
          <input aria-label="user" placeholder="name" className="w-40" autoComplete="off" {...register("user")} />
        )}
        {(credentials === "basic" || credentials === "bearer") && (
          <input
            type="password"
            aria-label={credentials === "basic" ? "password" : "token"}
            className="w-52"
            autoComplete="new-password"
            {...register("secret")}
          />
        )}
      </p>
      {scheme === "https" && <TrustFieldset register={register} trust={trust} />}
    </div>
  );
}
