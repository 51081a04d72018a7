import type { AddressInfo } from "node:net";
import { SMTPServer } from "smtp-server";

/** A mail server on loopback that keeps what it is given, or refuses it. */
export interface MailServer {
  readonly port: number;
  /** As they came, in one line each where they were folded. */
  readonly mails: readonly string[];
  refuses: boolean;
  close(): Promise<void>;
}

export async function startMailServer(): Promise<MailServer> {
  const mails: string[] = [];
  const smtp = new SMTPServer({
    authOptional: true,
    disabledCommands: ["STARTTLS"],
    onData: (stream, _session, done) => {
      let text = "";
      stream.on("data", (chunk: Buffer) => (text += chunk.toString()));
      stream.on("end", () => {
        if (it.refuses) return done(new Error("not now"));
        mails.push(text.replaceAll("=\r\n", ""));
        done();
      });
    },
  });
  await new Promise<void>((resolve) => smtp.listen(0, "127.0.0.1", resolve));
  const it = {
    port: (smtp.server.address() as AddressInfo).port,
    mails,
    refuses: false,
    close: () => new Promise<void>((resolve) => smtp.close(() => resolve())),
  };
  return it;
}
