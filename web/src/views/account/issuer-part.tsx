import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import type { ReactNode } from "react";
import { beginIssuerLink, dropIssuerLink } from "../../../../core/api/issuer.ts";
import { call } from "../../api/client.ts";
import { waysInQuery } from "../../api/queries.ts";
import { NotInWords } from "../../shared/entry/not-in-words.tsx";

/** Whether the one who looks signs in by the issuer of this house; nothing where there is none. */
export function IssuerPart(): ReactNode {
  const queries = useQueryClient();
  const issuer = useQuery(waysInQuery).data?.issuer;
  const link = useMutation({
    mutationFn: () => call(beginIssuerLink, {}, { to: "/account" }),
    onSuccess: ({ url }) => location.assign(url),
  });
  const drop = useMutation({
    mutationFn: () => call(dropIssuerLink, {}),
    onSuccess: () => queries.invalidateQueries({ queryKey: waysInQuery.queryKey }),
  });
  if (!issuer) return null;
  const failed = link.error ?? drop.error;
  return (
    <section aria-labelledby="issuer-title" className="border-t border-hairline py-4">
      <h2 id="issuer-title" className="font-bold">
        By {issuer.name}
      </h2>
      <p className="max-w-prose text-quiet">
        {issuer.isLinked
          ? `You sign in by ${issuer.name} as well.`
          : `You can sign in by ${issuer.name} as well, as the same person.`}
      </p>
      <NotInWords />
      <button
        type="button"
        className="act-plain mt-3"
        disabled={link.isPending || drop.isPending}
        onClick={() => (issuer.isLinked ? drop.mutate() : link.mutate())}
      >
        {issuer.isLinked ? `No longer sign in by ${issuer.name}` : "Link yourself"}
      </button>
      {failed && (
        <p role="alert" className="py-2 text-urgent">
          {failed.message}
        </p>
      )}
    </section>
  );
}
