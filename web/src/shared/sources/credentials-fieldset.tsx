import type { ReactNode } from "react";
import type { UseFormReturn } from "react-hook-form";
import { snmpAuthProtocols, snmpPrivProtocols } from "../../../../core/sources/kinds/snmp.ts";
import type { DeviceFields } from "./device-fields.ts";

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

/** Who we say we are to a device: a user and a password, or as SNMP has it. */
export function CredentialsFieldset({
  by,
  form,
  hasSecret,
}: {
  by: "user and password" | "snmp";
  form: UseFormReturn<DeviceFields>;
  hasSecret: boolean;
}): ReactNode {
  const { register, watch } = form;
  const [version, level, keeps] = watch(["device.version", "level", "keepsSecret"]);
  return (
    <>
      {hasSecret && (
        <label className="flex items-center gap-2">
          <input type="checkbox" className="accent-act" {...register("keepsSecret")} /> with what was entered before
        </label>
      )}
      {!keeps && by === "user and password" && (
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
      {!keeps && by === "snmp" && version !== "3" && (
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
      {!keeps && by === "snmp" && version === "3" && (
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
