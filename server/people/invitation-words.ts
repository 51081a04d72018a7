import type { InvitationView } from "../../core/api/people.ts";
import { roleWords } from "../../core/people/roles.ts";

/** An invitation as a mail. */
export function invitationWords({ by, role, until, url }: InvitationView & { readonly url: string }): {
  readonly subject: string;
  readonly text: string;
} {
  return {
    subject: `${by} invites you to Nubrel`,
    text: [
      `${by} invites you to look into their machines with Nubrel, as ${roleWords[role].as}: ${roleWords[role].may}.`,
      "",
      "Open this address, choose a name and a password, and you are in:",
      url,
      "",
      `It works once, until ${until.slice(0, 16).replace("T", " ")} UTC. Whoever has it can use it; do not pass it on.`,
    ].join("\n"),
  };
}
