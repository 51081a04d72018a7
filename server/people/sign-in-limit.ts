import { isIPv6 } from "node:net";
import { RateLimiterMemory } from "rate-limiter-flexible";

const spanSeconds = 900;
const perAccount = 5;
const perAddress = 30;
/** Wrong tries at one account, from wherever, after which each is answered later and later. */
const unslowed = 10;
const firstPauseMs = 250;
const longestPauseMs = 8000;

/**
 * Who tries to sign in: the account's name, the address, and the browser where that has signed in to this account
 * before.
 */
export interface Trying {
  readonly name: string;
  readonly address: string;
  /** Undefined for a browser that is not known. */
  readonly browser: string | undefined;
}

/**
 * Wrong passwords that are let through: five for an account from one address in a quarter of an hour, thirty from one
 * address whatever the account. A try is counted before its password is
 * looked at, so that many at once do not pass together, and taken off again where it was right. A browser that has
 * signed in to the account before is counted by
 * itself: others' tries from an address that it shares do not lock it out (OWASP, "device cookies"). Over all addresses
 * an account is slowed down, never locked.
 */
export class SignInLimit {
  readonly #perAccount = new RateLimiterMemory({ points: perAccount, duration: spanSeconds });
  readonly #perAddress = new RateLimiterMemory({ points: perAddress, duration: spanSeconds });
  readonly #everywhere = new RateLimiterMemory({ points: Number.MAX_SAFE_INTEGER, duration: spanSeconds });

  /**
   * Counts a try. Answers the seconds until another is let through, 0 where this one is; and after how many ms it is to
   * be answered.
   */
  async count(trying: Trying): Promise<{ readonly waitSeconds: number; readonly pauseMs: number }> {
    const keys = keysOf(trying);
    const taken = await Promise.all([
      take(this.#perAccount, keys.account),
      keys.address === undefined ? 0 : take(this.#perAddress, keys.address),
    ]);
    const { consumedPoints } = await this.#everywhere.consume(keys.everywhere);
    const over = trying.browser === undefined ? consumedPoints - unslowed : 0;
    return {
      waitSeconds: Math.ceil(Math.max(...taken) / 1000),
      pauseMs: over <= 0 ? 0 : Math.min(longestPauseMs, firstPauseMs * 2 ** Math.min(10, over - 1)),
    };
  }

  /** The password was right: the try counts no longer. */
  async noteRight(trying: Trying): Promise<void> {
    const keys = keysOf(trying);
    await Promise.all([
      this.#perAccount.delete(keys.account),
      keys.address !== undefined && this.#perAddress.reward(keys.address, 1),
      this.#everywhere.reward(keys.everywhere, 1),
    ]);
  }
}

/** Ms until another point is there; 0 where one was. */
async function take(limiter: RateLimiterMemory, key: string): Promise<number> {
  try {
    await limiter.consume(key);
    return 0;
  } catch (refused) {
    if (refused instanceof Error) throw refused;
    return (refused as { msBeforeNext: number }).msBeforeNext;
  }
}

function keysOf({ name, address, browser }: Trying): {
  readonly account: string;
  readonly address: string | undefined;
  readonly everywhere: string;
} {
  const account = name.toLowerCase();
  const from = networkOf(address);
  return browser === undefined
    ? { account: JSON.stringify([account, from]), address: from, everywhere: account }
    : { account: JSON.stringify([account, "browser", browser]), address: undefined, everywhere: account };
}

/** One who has an address of IPv6 has a network of 2^64 of them (RFC 6177 §2). */
export function networkOf(address: string): string {
  const plain = address.replace(/^::ffff:/i, "").split("%")[0] as string;
  if (!isIPv6(plain)) return plain;
  const [head = "", tail = ""] = plain.split("::") as [string, string?];
  const front = head.split(":").filter(Boolean);
  const back = tail.split(":").filter(Boolean);
  const groups = plain.includes("::") ? [...front, ...Array(8 - front.length - back.length).fill("0"), ...back] : front;
  return `${groups
    .slice(0, 4)
    .map((group) => Number.parseInt(group, 16).toString(16))
    .join(":")}::/64`;
}
