import { createSocket, type Socket } from "node:dgram";
import { isIPv6 } from "node:net";

type Heard = (datagram: Uint8Array, from: string) => void;

interface Listening {
  readonly socket: Socket;
  readonly heard: Set<Heard>;
  readonly isThere: Promise<void>;
}

const listening = new Map<string, Listening>();

/**
 * Listens for flows at a port of UDP. Several sources share a port, each hears all that comes to it and takes what is
 * of its own exporter. Resolves to a function that ends it for
 * this one. Throws what the system says where the port cannot be had.
 */
export async function listenForFlows(host: string, port: number, heard: Heard): Promise<() => void> {
  const key = `${host} ${port}`;
  let one = listening.get(key);
  if (!one) listening.set(key, (one = open(host, port, () => listening.delete(key))));
  one.heard.add(heard);
  const leave = () => {
    one.heard.delete(heard);
    if (one.heard.size > 0 || listening.get(key) !== one) return;
    listening.delete(key);
    one.socket.close();
  };
  try {
    await one.isThere;
  } catch (error) {
    one.heard.delete(heard);
    throw error;
  }
  return leave;
}

function open(host: string, port: number, gone: () => void): Listening {
  const socket = createSocket({ type: isIPv6(host) ? "udp6" : "udp4", recvBufferSize: 4_194_304 });
  const heard = new Set<Heard>();
  socket.on("message", (datagram, { address }) => {
    for (const tell of heard) tell(datagram, address.replace(/^::ffff:/, ""));
  });
  const isThere = new Promise<void>((resolve, reject) => {
    socket.once("listening", resolve);
    socket.once("error", (error) => {
      gone();
      socket.close();
      reject(error);
    });
  });
  isThere.then(
    () => socket.on("error", () => {}),
    () => {},
  ); // a datagram that cannot be had is as if it had not come
  socket.bind(port, host);
  return { socket, heard, isThere };
}
