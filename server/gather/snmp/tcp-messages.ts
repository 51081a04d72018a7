import { EventEmitter } from "node:events";
import { connect, type Socket } from "node:net";

/** No answer that anybody asked for is as long; what says that it is would fill memory. */
const mostBytes = 4_194_304;
const sequence = 0x30;

/**
 * SNMP over TCP (RFC 3430): messages follow each other on one connection, each as long as its own BER length says. Has
 * what net-snmp uses of a datagram socket, so that a session
 * does not see the difference; a connection that broke is made anew by the next message.
 */
export class TcpMessages extends EventEmitter {
  #socket: Socket | undefined;
  #pieces: Buffer = Buffer.alloc(0);
  #isReferred = false;

  send(
    buffer: Buffer,
    offset: number,
    length: number,
    port: number,
    host: string,
    done: (error: Error | null) => void,
  ): void {
    const message = buffer.subarray(offset, offset + length);
    let isTold = false;
    const tell = (error: Error | null) => {
      if (isTold) return;
      isTold = true;
      done(error);
    };
    if (this.#socket && !this.#socket.destroyed) {
      this.#socket.write(message, (error) => tell(error ?? null));
      return;
    }
    const socket = connect({ port, host });
    this.#socket = socket;
    this.#pieces = Buffer.alloc(0);
    if (!this.#isReferred) socket.unref();
    socket.on("error", tell);
    socket.on("data", (piece) => this.#read(socket, piece));
    // The request is registered before it is answered: its own time-out tells of a host that stays silent, too.
    socket.once("connect", () => socket.write(message, (error) => tell(error ?? null)));
    socket.once("close", () => tell(new Error("the connection was closed")));
  }

  bind(): void {}

  ref(): void {
    this.#isReferred = true;
    this.#socket?.ref();
  }

  unref(): void {
    this.#isReferred = false;
    this.#socket?.unref();
  }

  close(): void {
    this.#socket?.destroy();
    this.emit("close");
  }

  #read(socket: Socket, piece: Buffer): void {
    this.#pieces = this.#pieces.length === 0 ? piece : Buffer.concat([this.#pieces, piece]);
    for (;;) {
      const length = messageLength(this.#pieces);
      if (length === undefined) return;
      if (length === 0) {
        socket.destroy(); // no BER sequence: what follows cannot be told apart
        return;
      }
      if (this.#pieces.length < length) return;
      this.emit("message", this.#pieces.subarray(0, length), {});
      this.#pieces = this.#pieces.subarray(length);
    }
  }
}

/**
 * The whole length of the BER sequence that begins here; undefined where its length has not come yet, 0 where it is
 * none that can be taken (ITU-T X.690 §8.1.3).
 */
export function messageLength(bytes: Uint8Array): number | undefined {
  const [tag, first] = bytes;
  if (tag === undefined) return undefined;
  if (tag !== sequence) return 0;
  if (first === undefined) return undefined;
  if (first < 0x80) return 2 + first;
  const octets = first & 0x7f;
  if (octets === 0 || octets > 4) return 0;
  if (bytes.length < 2 + octets) return undefined;
  const length = bytes.subarray(2, 2 + octets).reduce((sum, byte) => sum * 256 + byte, 0);
  return length > mostBytes ? 0 : 2 + octets + length;
}
