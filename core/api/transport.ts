import { type Nothing, route } from "./route.ts";

/** How the server speaks. Times in ms; null where it speaks in clear text. */
export interface TransportView {
  readonly kind: "plain" | "files" | "house";
  readonly names: readonly string[];
  readonly sha256: string | null;
  /** Of the public key, as curl wants it. */
  readonly pin: string | null;
  readonly fromMs: number | null;
  readonly untilMs: number | null;
  readonly endsSoon: boolean;
  /** The house authority's certificate. */
  readonly authorityPem: string | null;
  /** When the house authority ends; soon: within 90 days, and then those who believe it must be given a new one. */
  readonly authorityEnds: { readonly untilMs: number; readonly isSoon: boolean } | null;
  /** Whose forwarded headers are believed. */
  readonly proxies: readonly string[];
  /** Whether this machine alone can reach the server. */
  readonly isLoopbackOnly: boolean;
  /**
   * Where other machines reach the server, or will once it listens for them: beginnings of addresses, the likeliest
   * first.
   */
  readonly reachedAt: readonly string[];
}

export const getTransport = route("GET", "/transport")<Nothing, TransportView>();
