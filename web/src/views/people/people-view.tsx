import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import type { ReactNode } from "react";
import { withdrawInvitation } from "../../../../core/api/people.ts";
import { call } from "../../api/client.ts";
import { invitationsQuery, meQuery, peopleQuery } from "../../api/queries.ts";
import { limitsWords } from "../../shared/people/limits-words.ts";
import { momentText } from "../../time/moments.ts";
import { useTime } from "../../time/time-provider.tsx";
import { InviteForm } from "./invite-form.tsx";
import { PeopleHeading } from "./people-heading.tsx";
import { PersonRow } from "./person-row.tsx";

/** Everybody who may come in, who is invited, and a form that invites. */
export function PeopleView(): ReactNode {
  const me = useQuery(meQuery).data;
  const people = useQuery(peopleQuery);
  return (
    <>
      <PeopleHeading />
      <section aria-label="People" className="py-4">
        {people.isPending && <p className="text-quiet">reading …</p>}
        {people.error && (
          <p role="alert" className="text-urgent">
            {people.error.message}
          </p>
        )}
        <ul className="max-w-4xl">
          {(people.data ?? []).map((person) => (
            <PersonRow key={person.id} person={person} isMe={person.name === me?.name} />
          ))}
        </ul>
        {people.data?.length === 1 && (
          <p className="max-w-prose border-t border-hairline pt-2 text-quiet">
            Nobody else comes in yet. Whoever only looks is best invited as a viewer.
          </p>
        )}
      </section>
      <Invitations />
      <InviteForm />
    </>
  );
}

function Invitations(): ReactNode {
  const { nowMs } = useTime();
  const queries = useQueryClient();
  const invitations = useQuery(invitationsQuery).data ?? [];
  const withdraw = useMutation({
    mutationFn: (id: number) => call(withdrawInvitation, { id }),
    onSuccess: () => queries.invalidateQueries({ queryKey: invitationsQuery.queryKey }),
  });
  if (invitations.length === 0) return null;
  return (
    <section aria-labelledby="invited-title" className="border-t border-hairline py-4">
      <h2 id="invited-title" className="font-bold">
        Invited, and not come yet
      </h2>
      <ul className="mt-2 max-w-4xl">
        {invitations.map(({ id, role, limits, by, until }) => (
          <li
            key={id}
            className="flex flex-wrap items-baseline gap-x-4 border-t border-hairline py-1.5"
            data-invitation
          >
            <span>{role}</span>
            {limits && <span className="text-quiet">sees {limitsWords(limits)}</span>}
            <span className="text-[14px] text-quiet">
              by {by}, until <span className="moment">{momentText(Date.parse(until), nowMs)}</span>
            </span>
            <button type="button" className="word-link ml-auto" onClick={() => withdraw.mutate(id)}>
              withdraw
            </button>
          </li>
        ))}
      </ul>
      {withdraw.error && (
        <p role="alert" className="py-2 text-urgent">
          {withdraw.error.message}
        </p>
      )}
    </section>
  );
}
