import type { ReactNode } from "react";
import { PartsHeading } from "../../shared/heading/parts-heading.tsx";

const parts = [
  { to: "/people", words: "Who may come in" },
  { to: "/people/deeds", words: "Who did what" },
] as const;

/** The heading of all that belongs to People, with its parts as words. */
export const PeopleHeading = (): ReactNode => <PartsHeading title="People" parts={parts} />;
