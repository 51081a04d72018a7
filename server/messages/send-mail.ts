import { createTransport } from "nodemailer";
import type { MailSettings } from "../../core/messages/recipient.ts";
import { certificateFault } from "../transport/certificate-faults.ts";
import { systemIssuers } from "../transport/trusting-connector.ts";
import { cut, type Outcome } from "./outcome.ts";

const timeoutMs = 15_000;

interface Mail {
  readonly settings: MailSettings;
  readonly password: string | null;
  readonly messageId: string;
  readonly subject: string;
  readonly text: string;
  readonly html: string;
  /** PNG, spoken of in the HTML as `cid:chart`. */
  readonly picture: Buffer | null;
}

/**
 * Hands a mail on by SMTP. With STARTTLS it is refused where the other side does not offer it: nothing goes in clear
 * text unless that was said out loud.
 */
export async function sendMail({
  settings,
  password,
  messageId,
  subject,
  text,
  html,
  picture,
}: Mail): Promise<Outcome> {
  const { host, port, security, user, issuer, from, to } = settings;
  const transport = createTransport({
    host,
    port,
    secure: security === "tls",
    requireTLS: security === "starttls",
    ignoreTLS: security === "none",
    connectionTimeout: timeoutMs,
    greetingTimeout: timeoutMs,
    socketTimeout: timeoutMs,
    ...(user !== "" && { auth: { user, pass: password ?? "" } }),
    tls: { ca: issuer === "" ? systemIssuers() : [issuer] },
  });
  try {
    const info = await transport.sendMail({
      from,
      to: [...to],
      subject,
      text,
      html,
      messageId: `<${messageId}@nubrel>`,
      headers: { "Auto-Submitted": "auto-generated" }, // RFC 3834: no answers by machines
      ...(picture && {
        attachments: [{ filename: "chart.png", content: picture, cid: "chart", contentType: "image/png" }],
      }),
    });
    const refused = info.rejected.length > 0 ? `\nrefused: ${info.rejected.map(String).join(", ")}` : "";
    // Who was refused is not worth sending it to the others again.
    return { worked: true, answer: cut(`${info.response}${refused}`), ...(refused !== "" && { isPart: true }) };
  } catch (error) {
    const { message, response, responseCode, code, command } = error as Error & {
      response?: string;
      responseCode?: number;
      code?: string;
      command?: string;
    };
    const fault = certificateFault(error);
    if (fault && response === undefined)
      return {
        worked: false,
        answer: cut(
          `${host}:${port}: ${fault.words} Have the mail server show a certificate that is trusted here and covers ${host}, or give the certificate of its issuer with this recipient.`,
        ),
      };
    // RFC 5321 §4.2.1: 5yz is a permanent refusal, which the same message should not be sent to again.
    return {
      ...(responseCode !== undefined && responseCode >= 500 && { isFinal: true }),
      worked: false,
      answer: cut(
        response
          ? `${response}${command ? ` (to ${command})` : ""}`
          : `${message}${code ? ` (${code})` : ""}. ${remedyOf(code, security)}`,
      ),
    };
  } finally {
    transport.close();
  }
}

function remedyOf(code: string | undefined, security: MailSettings["security"]): string {
  if (code === "ECONNECTION" || code === "ESOCKET" || code === "ETIMEDOUT")
    return `Look at host and port; ${security === "tls" ? "TLS from the first byte is usually on port 465" : "STARTTLS is usually on port 587"}.`;
  if (code === "EAUTH") return "Look at user and password.";
  if (code === "ETLS")
    return "The other side does not offer STARTTLS; use TLS on its port, or clear text where you know the way is safe.";
  if (code === "EDNS") return "Look at the host's spelling.";
  return "";
}
