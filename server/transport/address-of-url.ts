import type { PullAddress } from "../../core/sources/source.ts";

/** Where a URL leads, as whoever connects wants it. Throws TypeError where it is none. */
export function addressOfUrl(url: string, timeoutMs: number): PullAddress {
  const { protocol, hostname, port, pathname, search } = new URL(url);
  const scheme = protocol === "https:" ? "https" : "http";
  return {
    scheme,
    timeoutMs,
    host: hostname.replace(/^\[|\]$/g, ""),
    port: Number(port) || (scheme === "https" ? 443 : 80),
    path: `${pathname}${search}`,
  };
}
