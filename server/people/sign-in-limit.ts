import { RateLimiterMemory } from "rate-limiter-flexible";

/** Wrong passwords that are let through: five for an account from one address in a quarter of an hour, thirty from one address whatever the account. */
export class SignInLimit {
  readonly #perAccount = new RateLimiterMemory({ points: 5, duration: 900 });
  readonly #perAddress = new RateLimiterMemory({ points: 30, duration: 900 });

  /** Seconds until another try is let through; 0 where one is now. */
  async waitSeconds(name: string, address: string): Promise<number> {
    const [account, from] = await Promise.all([this.#perAccount.get(keyOf(name, address)), this.#perAddress.get(address)]);
    const waits = [account && account.consumedPoints >= 5 ? account.msBeforeNext : 0, from && from.consumedPoints >= 30 ? from.msBeforeNext : 0];
    return Math.ceil(Math.max(...waits) / 1000);
  }

  async noteWrong(name: string, address: string): Promise<void> {
    await Promise.allSettled([this.#perAccount.consume(keyOf(name, address)), this.#perAddress.consume(address)]);
  }

  async noteRight(name: string, address: string): Promise<void> {
    await this.#perAccount.delete(keyOf(name, address));
  }
}

const keyOf = (name: string, address: string) => JSON.stringify([name.toLowerCase(), address]);
