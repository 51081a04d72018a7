import { createSocket } from "node:dgram";
import { isIPv6 } from "node:net";

/**
 * Get Channel Authentication Capabilities (IPMI 2.0 §22.13), which every controller answers to anybody: RMCP, no
 * session, channel of the present request, level administrator.
 */
const question = Buffer.from([
  0x06, 0x00, 0xff, 0x07, 0x00, 0, 0, 0, 0, 0, 0, 0, 0, 0x09, 0x20, 0x18, 0xc8, 0x81, 0x00, 0x38, 0x8e, 0x04, 0xb5,
]);
const tries = 2;

/** Whether anything speaks IPMI there: a wrong password and nobody at all sound alike to who asks for a session. */
export function speaksIpmi(host: string, port: number, waitMs: number): Promise<boolean> {
  return new Promise((resolve) => {
    const socket = createSocket(isIPv6(host) ? "udp6" : "udp4");
    const end = (found: boolean) => {
      clearTimeout(timer);
      clearInterval(asking);
      socket.close();
      resolve(found);
    };
    const ask = () => socket.send(question, port, host, (error) => error && end(false));
    const timer = setTimeout(() => end(false), waitMs);
    const asking = setInterval(ask, waitMs / tries);
    socket.once("error", () => end(false));
    socket.on("message", (answer) => {
      if (answer[0] === 0x06 && answer[3] === 0x07) end(true); // RMCP, class IPMI
    });
    ask();
  });
}
