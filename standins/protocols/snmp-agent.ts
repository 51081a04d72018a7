import snmp from "net-snmp";
import type { AgentState, AgentVariable } from "../devices/snmp-devices.ts";

export interface AgentAccess {
  readonly community?: string;
  readonly user?: { readonly name: string; readonly authKey: string; readonly privKey: string };
}

/** How long values stand before they are worked out anew. */
const freshMs = 500;

/**
 * A real agent over UDP for a device's variables; versions 1, 2c by community, 3 by user (SHA-256, AES). `atSeconds` is
 * the clock.
 * Which variables there are is settled at the start, what they hold is not.
 */
export function startSnmpAgent(
  port: number,
  access: AgentAccess,
  state: AgentState,
  atSeconds: () => number,
): Promise<{ close(): void }> {
  return new Promise((resolve, reject) => {
    let opened = false;
    const agent = snmp.createAgent(
      { port, address: "127.0.0.1", disableAuthorization: false } as never,
      (error: Error | null) => {
        // anything else is what somebody sent
        if (error && !opened && (error as NodeJS.ErrnoException).code) reject(error);
      },
    );
    const authorizer = agent.getAuthorizer();
    if (access.community !== undefined) authorizer.addCommunity(access.community);
    if (access.user)
      authorizer.addUser({
        name: access.user.name,
        level: snmp.SecurityLevel.authPriv,
        authProtocol: (snmp.AuthProtocols as unknown as Record<string, snmp.AuthProtocols>)["sha256"],
        authKey: access.user.authKey,
        privProtocol: snmp.PrivProtocols.aes,
        privKey: access.user.privKey,
      } as never);
    const mib = new VariableTree(agent.getMib() as never);
    let workedOutMs = Number.NEGATIVE_INFINITY;
    const refresh = () => {
      const now = Date.now();
      if (now - workedOutMs < freshMs) return;
      workedOutMs = now;
      mib.set(state(atSeconds()));
    };
    mib.build(state(atSeconds()), refresh);
    setTimeout(() => {
      opened = true;
      resolve({ close: () => (agent as unknown as { close(): void }).close() });
    }, 30);
  });
}

interface TreeNode {
  value: unknown;
  valueType: number;
  provider: unknown;
}
interface Tree {
  addNodesForOid(oid: string): TreeNode;
  lookup(oid: string): TreeNode | null;
}

/** Variables as nodes of the library's tree: one provider for each column, whose handler works values out anew. */
class VariableTree {
  readonly #tree: Tree;
  readonly #nodes = new Map<string, TreeNode>();

  constructor(tree: Tree) {
    this.#tree = tree;
  }

  build(variables: readonly AgentVariable[], refresh: () => void): void {
    for (const { oid, type } of variables) {
      const node = this.#tree.addNodesForOid(oid);
      node.valueType = snmp.ObjectType[type] as unknown as number;
      this.#nodes.set(oid, node);
      const column = this.#tree.addNodesForOid(oid.slice(0, oid.lastIndexOf(".")));
      column.provider ??= {
        name: oid.slice(0, oid.lastIndexOf(".")),
        oid: oid.slice(0, oid.lastIndexOf(".")),
        type: snmp.MibProviderType.Scalar,
        maxAccess: snmp.MaxAccess["read-only"],
        handler: (request: { done(): void }) => {
          refresh();
          request.done();
        },
      };
    }
    this.set(variables);
  }

  set(variables: readonly AgentVariable[]): void {
    for (const { oid, type, value } of variables) {
      const node = this.#nodes.get(oid);
      if (node) node.value = type === "Counter64" ? bytesOf(value as number) : value;
    }
  }
}

/**
 * The library takes 64-bit counters as bytes, the most significant first, without needless zeros; the first bit is the
 * sign.
 */
function bytesOf(value: number): Buffer {
  let hex = BigInt(Math.floor(value)).toString(16);
  if (hex.length % 2 === 1) hex = `0${hex}`;
  if (Number.parseInt(hex.slice(0, 2), 16) >= 0x80) hex = `00${hex}`;
  return Buffer.from(hex, "hex");
}
