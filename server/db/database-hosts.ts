import pg from "pg";

/** The one that answers is a standby: it takes no writes. */
class StandbyError extends Error {
  override name = "StandbyError";
  /** SQLSTATE cannot_connect_now: another try may find another server. */
  readonly code = "57P03";
}

/** As libpq writes an address with several hosts (PostgreSQL, "Connection URIs"): hosts stand with a comma between. */
const address = /^(postgres(?:ql)?:\/\/(?:[^@/?]*@)?)([^/?]+)([/?].*)?$/;

/**
 * The addresses of one host each that an address of several stands for, in their order. Undefined where one of them is
 * none.
 */
export function hostsOf(url: string): readonly string[] | undefined {
  const [, before, hosts, after = ""] = address.exec(url) ?? [];
  if (before === undefined || hosts === undefined) return undefined;
  const each = hosts.split(",").map((host) => `${before}${host}${after}`);
  return each.every((one) => URL.canParse(one) && new URL(one).hostname !== "") ? each : undefined;
}

/** What node-postgres calls back once it is connected, or is not. */
type Connected = ((error: Error) => void) | ((error: null, client: pg.Client) => void);

/** Which of its hosts took writes last, by address; every connection of this thread begins there. */
const chosen = new Map<string, number>();

/** What opens connections to whichever host of an address takes writes; as they are where it has one host. */
export function clientOf(url: string): typeof pg.Client {
  const hosts = hostsOf(url);
  if (!hosts || hosts.length < 2) return pg.Client;
  const count = hosts.length;
  return class WritableClient extends pg.Client {
    readonly #index: number;

    constructor(config: pg.ClientConfig = {}) {
      const index = chosen.get(url) ?? 0;
      super({ ...config, connectionString: (hosts as readonly string[])[index] as string });
      this.#index = index;
    }

    override connect(): Promise<pg.Client>;
    override connect(callback: Connected): void;
    override connect(callback?: Connected): Promise<pg.Client> | undefined {
      const connected = this.#connectToWrite();
      if (!callback) return connected;
      const tell = callback as (error: Error | null, client?: pg.Client) => void;
      connected.then(
        (client) => tell(null, client),
        (error) => tell(error as Error),
      );
      return undefined;
    }

    async #connectToWrite(): Promise<pg.Client> {
      try {
        await super.connect();
        const { rows } = await this.query<{ standby: boolean }>("select pg_is_in_recovery() as standby");
        if (rows[0]?.standby) throw new StandbyError(`${this.host}:${this.port} is a standby, which takes no writes.`);
        return this;
      } catch (error) {
        // The next connection tries the next host; others may have found that out before.
        if ((chosen.get(url) ?? 0) === this.#index) chosen.set(url, (this.#index + 1) % count);
        this.end().catch(() => {});
        throw error;
      }
    }
  };
}

/** How many hosts an address has. */
export const hostCount = (url: string): number => hostsOf(url)?.length ?? 1;
