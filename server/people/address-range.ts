import { BlockList, isIP } from "node:net";

const mostBits = { 4: 32, 6: 128 } as const;

/** An address or a network (RFC 4632): its address and how many of its bits count; undefined for what is neither. */
function networkOf(
  text: string,
): { readonly address: string; readonly kind: 4 | 6; readonly bits: number } | undefined {
  const [address = "", bits, ...more] = text.split("/");
  const kind = isIP(address);
  if ((kind !== 4 && kind !== 6) || more.length > 0) return undefined;
  if (bits === undefined) return { address, kind, bits: mostBits[kind] };
  const isNumber = /^\d{1,3}$/.test(bits) && Number(bits) <= mostBits[kind];
  return isNumber ? { address, kind, bits: Number(bits) } : undefined;
}

export const isNetwork = (text: string): boolean => networkOf(text) !== undefined;

/** Whether an address lies in one of some networks; in none where there are some, everywhere where there are none. */
export function isFrom(networks: readonly string[], address: string | undefined): boolean {
  if (networks.length === 0) return true;
  // IPv4 as it comes in over a socket of both kinds (RFC 4291 §2.5.5.2).
  const plain = (address ?? "").replace(/^::ffff:(?=\d+\.)/i, "");
  const kind = isIP(plain);
  if (kind === 0) return false;
  const list = new BlockList();
  for (const one of networks.flatMap((text) => networkOf(text) ?? []))
    list.addSubnet(one.address, one.bits, one.kind === 4 ? "ipv4" : "ipv6");
  return list.check(plain, kind === 4 ? "ipv4" : "ipv6");
}
