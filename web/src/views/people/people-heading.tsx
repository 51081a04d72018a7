import { getIssuer } from "../../../../core/api/issuer.ts";
import type { ReactNode } from "react";
import { listDeeds } from "../../../../core/api/audit.ts";
import { listLinks } from "../../../../core/api/links.ts";
import { listPeople } from "../../../../core/api/people.ts";
import { PartsHeading } from "../../shared/heading/parts-heading.tsx";

const parts = [
  { to: "/people", words: "Who may come in", needs: listPeople },
  { to: "/people/ways-in", words: "Ways in", needs: getIssuer },
  { to: "/people/links", words: "Shown by links", needs: listLinks },
  { to: "/people/deeds", words: "Who did what", needs: listDeeds },
] as const;

/** The heading of all that belongs to People, with its parts as words. */
export function PeopleHeading(): ReactNode {
  return <PartsHeading title="People" parts={parts} />;
}
