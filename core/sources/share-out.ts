/** A source that may be asked by any server, or only by those that stand where its address means the same. */
export interface SharedSource {
  readonly id: number;
  readonly isHereOnly: boolean;
}

/** A server that asks sources beside the one that leads. */
export interface AskingServer {
  readonly server: string;
  /** Whether it stands where the one that leads stands: what is here is there as well. */
  readonly isHere: boolean;
}

export interface SharingPlan {
  readonly give: readonly { readonly id: number; readonly server: string }[];
  readonly askBack: readonly number[];
}

interface Sharing {
  readonly sources: readonly SharedSource[];
  /** Which server asks a source; those of which nothing is said are asked by the one that leads. */
  readonly leases: ReadonlyMap<number, string>;
  readonly servers: readonly AskingServer[];
  /** Whether a server is known not to reach a source. */
  readonly isOutOfReach?: (id: number, server: string) => boolean;
}

/**
 * How sources are shared out evenly among servers, the one that leads among them: what is to be given to another, and
 * what is to be asked back. As little as possible moves: where every server has its share or one more, nothing does.
 * What is asked back goes to another once it has come.
 */
export function shareOut({ sources, leases, servers, isOutOfReach = () => false }: Sharing): SharingPlan {
  const least = Math.floor(sources.length / (servers.length + 1));
  const most = Math.ceil(sources.length / (servers.length + 1));
  const byId = new Map(sources.map((source) => [source.id, source]));
  const mayAsk = (id: number, { server, isHere }: AskingServer): boolean => {
    const source = byId.get(id);
    return source !== undefined && (isHere || !source.isHereOnly) && !isOutOfReach(id, server);
  };
  const askBack: number[] = [];
  const held = new Map(servers.map(({ server }) => [server, 0]));
  const known = new Map(servers.map((one) => [one.server, one]));
  for (const [id, server] of [...leases].sort(([a], [b]) => a - b)) {
    const has = held.get(server) ?? 0;
    const holder = known.get(server);
    // One that is not heard of is not asked: its leases end by themselves.
    if (byId.has(id) && !holder) continue;
    if (!holder || !mayAsk(id, holder) || has >= most) askBack.push(id);
    else held.set(server, has + 1);
  }
  const own = sources.filter(({ id }) => !leases.has(id)).map(({ id }) => id);
  const give: { id: number; server: string }[] = [];
  for (const one of servers) {
    for (let at = own.length - 1; at >= 0; at--) {
      const has = held.get(one.server) as number;
      if (has >= least || own.length <= least) break;
      if (!mayAsk(own[at] as number, one)) continue;
      give.push({ id: own[at] as number, server: one.server });
      own.splice(at, 1);
      held.set(one.server, has + 1);
    }
  }
  return { give, askBack };
}
