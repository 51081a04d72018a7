import type { SnmpDevice } from "../../../core/sources/kinds/snmp.ts";
import { PullError } from "../../transport/pull-error.ts";

const accessHint = "Compare the access list on the device: it must name the address of this machine.";

/**
 * Whether the agent's engine, its starts or its time are others than the session took them for (RFC 3414 §3.2, steps 3
 * and 7).
 */
export function isOutOfStep({ message }: Error): boolean {
  return /time window|unknown engine/i.test(message);
}

/** Says what an error of a session means. Names of errors of version 3: RFC 3414 §3.2. */
// biome-ignore lint/complexity/noExcessiveLinesPerFunction: one table of what can be wrong
export function snmpError(
  error: Error,
  { host, port, version, timeoutMs }: Pick<SnmpDevice, "host" | "port" | "version" | "timeoutMs">,
): PullError {
  if (error instanceof PullError) return error;
  const place = `${host}:${port}`;
  const make = (kind: PullError["kind"], words: string, remedy: string) =>
    new PullError(kind, words, remedy, { cause: error });
  const text = error.message;
  if (/unknown user/i.test(text))
    return make(
      "unknown user",
      "The device does not know this user (unknownUserName).",
      "Check the spelling, capital letters too, and that the user is made for version 3 on the device.",
    );
  if (/wrong digest|authentication fail|digest/i.test(text))
    return make(
      "wrong credentials",
      "The authentication key or its method is wrong (wrongDigest).",
      "Enter the key anew and compare the method, SHA-256 or another, with the device's.",
    );
  if (/decrypt/i.test(text))
    return make(
      "wrong credentials",
      "The privacy key or its method is wrong (decryptionError).",
      "Enter the key anew and compare the method, AES or another, with the device's.",
    );
  if (/unsupported security level/i.test(text))
    return make(
      "wrong level",
      "The device does not allow this user at this level (unsupportedSecurityLevel).",
      "Choose the level that the user has on the device: signed and sealed, signed, or none.",
    );
  if (/time window/i.test(text))
    return make(
      "refused",
      "The clocks of the device's SNMP part and of this session do not fit (notInTimeWindow).",
      "It mends itself after the device's agent was restarted; if it stays, restart the agent.",
    );
  if (/AuthorizationError|NoAccess/i.test(text))
    return make(
      "wrong level",
      "The device knows the credentials, and refuses what was asked (authorizationError).",
      "The device's view for this user or community is narrower, or it wants a higher level: signed and sealed.",
    );
  switch ((error as { code?: string }).code) {
    case "ECONNREFUSED":
      return make(
        "refused",
        `Nobody listens at ${place} over TCP.`,
        "Look whether the device offers SNMP over TCP at all; most know UDP only.",
      );
    case "ECONNRESET":
      return make(
        "refused",
        `The device at ${place} closed the connection.`,
        "Look whether the device offers SNMP over TCP at all; most know UDP only.",
      );
    case "ENOTFOUND":
    case "EAI_AGAIN":
      return make(
        "name unknown",
        `No address is known for the name ${host}.`,
        "Check the spelling, or use the address in numbers.",
      );
    case "EHOSTUNREACH":
    case "ENETUNREACH":
    case "EADDRNOTAVAIL":
    case "EINVAL":
      return make(
        "no way there",
        `There is no way to ${host} from here.`,
        "Look whether the device is on, and whether this machine is in a network that reaches it.",
      );
  }
  if (error.name === "RequestTimedOutError") {
    const seconds = `${timeoutMs / 1000} s`;
    if (version === "3")
      return make(
        "no answer",
        `Nothing came back from ${place} within ${seconds}. Either SNMP is off there, or this machine's address is not allowed, or the privacy key is wrong: a device that cannot unseal a request may stay silent.`,
        `Look whether SNMP is on. ${accessHint} Enter the privacy key anew.`,
      );
    return make(
      "no answer",
      `Nothing came back from ${place} within ${seconds}. Three things look exactly alike: SNMP is off there, this machine's address is not allowed there, or the community is wrong.`,
      `How to tell: look on the device whether SNMP is switched on for version ${version}. ${accessHint} Enter the community anew; capital letters count.`,
    );
  }
  if (/genErr|GeneralError/i.test(text))
    return make(
      "failed",
      "The device could not work the answer out (genErr).",
      "Try again; if it stays, leave out what makes it fail.",
    );
  return make(
    "not the format",
    `What came back is no answer that SNMP allows: ${text}.`,
    "Look whether the port and version are right.",
  );
}
