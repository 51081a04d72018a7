import { useQuery } from "@tanstack/react-query";
import type { ReactNode } from "react";
import { linksQuery } from "../../api/queries.ts";
import { LinkRows } from "../../shared/people/link-rows.tsx";
import { PeopleHeading } from "./people-heading.tsx";

/** Every link that shows a dashboard to those who have no account. */
export function LinksView(): ReactNode {
  const links = useQuery(linksQuery);
  return (
    <>
      <PeopleHeading />
      <section aria-label="Links" className="py-4">
        {links.isPending && <p className="text-quiet">reading …</p>}
        {links.error && (
          <p role="alert" className="text-urgent">
            {links.error.message}
          </p>
        )}
        {links.data?.length === 0 && (
          <p className="max-w-prose text-quiet">
            Nothing is shown by a link. A dashboard's own page makes one: whoever has it sees that dashboard, and needs
            no account.
          </p>
        )}
        {links.data && links.data.length > 0 && <LinkRows links={links.data} />}
      </section>
    </>
  );
}
