import { isIP } from "node:net";

/**
 * Networks of houses (RFC 1918, RFC 3927, RFC 4193, RFC 4291), and names that are nobody's in the world (RFC 6762, RFC
 * 8375, and what routers use).
 */
const privateNetworks = [
  "10.0.0.0/8",
  "172.16.0.0/12",
  "192.168.0.0/16",
  "169.254.0.0/16",
  "127.0.0.0/8",
  "fc00::/7",
  "fe80::/10",
  "::1/128",
] as const;
const privateDomains = ["localhost", "local", "lan", "home", "internal", "home.arpa"] as const;

/**
 * What an authority of a house may issue certificates for: its own names and addresses, and what belongs to no one in
 * the world.
 */
export function permittedFor(names: readonly string[]): readonly string[] {
  return [
    ...new Set([
      ...privateDomains,
      ...privateNetworks,
      ...names.map((name) =>
        isIP(name) === 0 ? name.toLowerCase() : isPrivate(name) ? "" : `${name}/${isIP(name) === 4 ? 32 : 64}`,
      ),
    ]),
  ].filter((one) => one !== "");
}

/** Whether a name or an address lies within what is permitted. */
export function isPermitted(name: string, permitted: readonly string[]): boolean {
  if (isIP(name) === 0)
    return permitted.some(
      (one) => !one.includes("/") && (name.toLowerCase() === one || name.toLowerCase().endsWith(`.${one}`)),
    );
  return permitted.some((one) => one.includes("/") && isWithin(name, one));
}

const isPrivate = (address: string): boolean => privateNetworks.some((network) => isWithin(address, network));

function isWithin(address: string, network: string): boolean {
  const [base, bits] = network.split("/") as [string, string];
  const [one, other] = [bytesOf(address), bytesOf(base)];
  if (one.length !== other.length) return false;
  const mask = maskOf(one.length, Number(bits));
  return one.every((byte, i) => (byte & (mask[i] as number)) === ((other[i] as number) & (mask[i] as number)));
}

/**
 * The value of the extension (RFC 5280 §4.2.1.10): the permitted subtrees, each a DNS name or an address with its mask.
 * It is critical: who cannot read it does not believe the
 * authority at all.
 */
export function nameConstraints(permitted: readonly string[]): Uint8Array {
  const trees = permitted.map((one) => {
    if (!one.includes("/")) return tagged(0x30, tagged(0x82, new TextEncoder().encode(one)));
    const [address, bits] = one.split("/") as [string, string];
    const bytes = bytesOf(address);
    const mask = maskOf(bytes.length, Number(bits));
    return tagged(
      0x30,
      tagged(0x87, Uint8Array.from([...bytes.map((byte, i) => byte & (mask[i] as number)), ...mask])),
    );
  });
  return tagged(0x30, tagged(0xa0, ...trees));
}

/** A value of DER (X.690 §8.1): its tag, its length, its content. */
function tagged(tag: number, ...contents: readonly Uint8Array[]): Uint8Array {
  const length = contents.reduce((sum, content) => sum + content.length, 0);
  const head =
    length < 0x80 ? [tag, length] : length < 0x100 ? [tag, 0x81, length] : [tag, 0x82, length >> 8, length & 0xff];
  return Uint8Array.from([...head, ...contents.flatMap((content) => [...content])]);
}

function maskOf(size: number, bits: number): number[] {
  return Array.from({ length: size }, (_, i) => (0xff00 >> Math.max(0, Math.min(8, bits - i * 8))) & 0xff);
}

function bytesOf(address: string): number[] {
  if (isIP(address) === 4) return address.split(".").map(Number);
  const [head = "", tail] = address.split("::");
  const groups = (part: string) =>
    part
      .split(":")
      .filter(Boolean)
      .flatMap((group) => [Number.parseInt(group, 16) >> 8, Number.parseInt(group, 16) & 0xff]);
  const [front, back] = [groups(head), groups(tail ?? "")];
  return tail === undefined ? front : [...front, ...Array<number>(16 - front.length - back.length).fill(0), ...back];
}
