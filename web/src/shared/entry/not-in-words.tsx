import type { ReactNode } from "react";
import { useSearchParams } from "react-router";
import { type NotInReason, notInParameter, notInReasons } from "../../../../core/api/issuer.ts";

const words: Readonly<Record<NotInReason, string>> = {
  late: "You came back too late, or from a page that this browser did not begin at. Try it once more.",
  refused: "The issuer did not let you through.",
  unsure: "What the issuer answered could not be checked. An owner finds the reason in the server's log.",
  role: "The issuer knows you, and nothing that it says of you lets you in here. Ask an owner.",
  name: "Somebody here has your name already. Sign in as them and link yourself to the issuer, or ask an owner.",
  taken: "That account of the issuer is linked to somebody else here, or you are linked to another one.",
  other: "The issuer says that you are somebody else, or somebody who left.",
  away: "The issuer cannot be reached now.",
};

/** Why somebody who came back from the issuer was not let in. */
export function NotInWords(): ReactNode {
  const reason = useSearchParams()[0].get(notInParameter);
  const known = notInReasons.find((one) => one === reason);
  if (!known) return null;
  return (
    <p role="alert" className="mt-3 max-w-prose text-urgent">
      {words[known]}
    </p>
  );
}
