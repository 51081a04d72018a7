import { DoorNewsPart } from "./door-news-part.tsx";
import type { ClaimRoles } from "../../../../core/people/role-by-claim.ts";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { type ReactNode, useState } from "react";
import { dropIssuer } from "../../../../core/api/issuer.ts";
import { call } from "../../api/client.ts";
import { issuerQuery, setupQuery, waysInQuery } from "../../api/queries.ts";
import { IssuerForm } from "./issuer-form.tsx";
import { PeopleHeading } from "./people-heading.tsx";

/** By what people sign in besides names and passwords: an issuer of one's own. */
export function WaysInView(): ReactNode {
  const queries = useQueryClient();
  const kept = useQuery(issuerQuery);
  const [isEditing, setIsEditing] = useState(false);
  const changed = async () => {
    setIsEditing(false);
    await Promise.all(
      [issuerQuery, setupQuery, waysInQuery].map(({ queryKey }) => queries.invalidateQueries({ queryKey })),
    );
  };
  const drop = useMutation({ mutationFn: () => call(dropIssuer, {}), onSuccess: changed });
  const issuer = kept.data?.issuer ?? null;
  const failed = kept.error ?? drop.error;
  return (
    <>
      <PeopleHeading />
      <p className="max-w-prose py-4">
        Everybody has a name and a password here, and adds passkeys and time codes under their name. An issuer of your
        own (OpenID Connect) can vouch for people besides: they come in without a password of ours, as what it says they
        are.
      </p>
      <section aria-labelledby="issuer-title" className="border-t border-hairline py-4">
        <h2 id="issuer-title" className="font-bold">
          An issuer of your own
        </h2>
        {kept.isPending && <p className="py-2 text-quiet">reading …</p>}
        {issuer && !isEditing && (
          <div className="max-w-prose py-2">
            <p>
              People sign in by <strong>{issuer.name}</strong>, <span className="figure break-all">{issuer.url}</span>,
              where this server is <span className="figure break-all">{issuer.clientId}</span>
              {!issuer.hasSecret && ", without a secret"}.
            </p>
            <p className="mt-1 text-quiet">{rolesWords(issuer.roles)}</p>
            <p className="mt-2 flex gap-4">
              <button type="button" className="word-link" onClick={() => setIsEditing(true)}>
                change
              </button>
              <button type="button" className="word-link" disabled={drop.isPending} onClick={() => drop.mutate()}>
                take it away
              </button>
            </p>
          </div>
        )}
        {kept.data && !issuer && !isEditing && (
          <p className="py-2">
            There is none.{" "}
            <button type="button" className="word-link" onClick={() => setIsEditing(true)}>
              name one
            </button>
          </p>
        )}
        {kept.data && isEditing && (
          <IssuerForm saved={kept.data} onSaved={changed} onLeave={() => setIsEditing(false)} />
        )}
        {failed && (
          <p role="alert" className="py-2 text-urgent">
            {failed.message}
          </p>
        )}
      </section>
      <DoorNewsPart />
    </>
  );
}

function rolesWords({ claim, owner, keeper, viewer, others }: ClaimRoles): string {
  const said = [
    ["owner", owner],
    ["keeper", keeper],
    ["viewer", viewer],
  ] as const;
  const named = said
    .filter(([, values]) => values.length > 0)
    .map(([role, values]) => `${values.join(" or ")} makes a ${role}`.replace("a owner", "an owner"));
  return `Its claim ${claim}: ${[...named, others === null ? "everybody else stays out" : `everybody else is a ${others}`].join(", ")}.`;
}
