import { createHash } from "node:crypto";
import type { Socket } from "node:net";
import type { TLSSocket } from "node:tls";
import { buildConnector } from "undici";

/** The server shows another key than the one that was pinned: it is another, or its authority was made anew. */
class OtherKeyError extends Error {
  override name = "OtherKeyError";
}

/**
 * Connects to whoever shows the key of this pin (as curl takes it: sha256//, then base64 of its SHA-256, RFC 7469 §2.4), whatever
 * else its certificate says: it may be renewed, and its names change.
 */
export function pinnedToKey(pin: string, timeoutMs: number): buildConnector.connector {
  const connect = buildConnector({ timeout: timeoutMs, rejectUnauthorized: false, maxCachedSessions: 0 });
  return (options, callback) => {
    connect(options, (error, socket) => {
      if (error) return callback(error, null);
      const shown = (socket as TLSSocket).getPeerX509Certificate?.();
      const key = shown?.publicKey.export({ type: "spki", format: "der" });
      if (key && `sha256//${createHash("sha256").update(key).digest("base64")}` === pin)
        return callback(null, socket as Socket);
      socket?.destroy();
      callback(new OtherKeyError("The server shows another key than the one in the pasted line."), null);
    });
  };
}
