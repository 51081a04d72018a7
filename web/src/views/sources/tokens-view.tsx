import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { type ReactNode, useState } from "react";
import { makeToken } from "../../../../core/api/tokens.ts";
import { call } from "../../api/client.ts";
import { tokensQuery } from "../../api/queries.ts";
import { Paste } from "../../shared/sources/paste.tsx";
import { LimitsForm } from "./limits-form.tsx";
import { SourcesHeading } from "../../shared/sources/sources-heading.tsx";
import { scopeWords, TokenRows } from "./token-rows.tsx";

/** Tokens of all scopes, and the bounds of what is taken in. */
export function TokensView(): ReactNode {
  const tokens = useQuery(tokensQuery);
  return (
    <>
      <SourcesHeading />
      <section aria-labelledby="tokens-title" className="py-4">
        <h2 id="tokens-title" className="font-bold">
          Tokens
        </h2>
        <p className="max-w-prose text-quiet">
          For programs, which have no password. A token that writes belongs to one source and is made with it.
        </p>
        {tokens.isPending && <p className="py-4 text-quiet">reading …</p>}
        {tokens.error && (
          <p role="alert" className="py-2 text-urgent">
            {tokens.error.message}
          </p>
        )}
        {tokens.data && <TokenRows tokens={tokens.data} />}
        <NewToken />
      </section>
      <LimitsForm />
    </>
  );
}

const dayMs = 86_400_000;
const lengths: readonly (readonly [string, string])[] = [
  ["", "until it is revoked"],
  ["31", "for a month"],
  ["92", "for three months"],
  ["366", "for a year"],
];

function NewToken(): ReactNode {
  const queries = useQueryClient();
  const [name, setName] = useState("");
  const [scope, setScope] = useState<"read" | "manage">("read");
  const [days, setDays] = useState("");
  const [addresses, setAddresses] = useState("");
  const make = useMutation({
    mutationFn: () =>
      call(
        makeToken,
        {},
        {
          name: name.trim(),
          scope,
          ...(days !== "" && { until: new Date(Date.now() + Number(days) * dayMs).toISOString() }),
          ...(addresses.trim() !== "" && { addresses: addresses.trim().split(/[\s,]+/) }),
        },
      ),
    onSuccess: async () => {
      setName("");
      await queries.invalidateQueries({ queryKey: ["tokens"] });
    },
  });
  return (
    <form
      aria-label="A new token"
      className="pt-4"
      onSubmit={(event) => {
        event.preventDefault();
        make.mutate();
      }}
    >
      <p className="flex flex-wrap items-center gap-2">
        <label>
          A token called{" "}
          <input
            required
            maxLength={100}
            value={name}
            onChange={(event) => setName(event.target.value)}
            className="ml-1 w-44"
          />
        </label>
        that may
        <select
          aria-label="scope"
          value={scope}
          onChange={(event) => setScope(event.target.value as "read" | "manage")}
        >
          <option value="read">{scopeWords.read}</option>
          <option value="manage">{scopeWords.manage}</option>
        </select>
        <select aria-label="how long it works" value={days} onChange={({ target }) => setDays(target.value)}>
          {lengths.map(([value, words]) => (
            <option key={value} value={value}>
              {words}
            </option>
          ))}
        </select>
        <label>
          from{" "}
          <input
            value={addresses}
            placeholder="everywhere, or 192.0.2.0/24"
            onChange={({ target }) => setAddresses(target.value)}
            className="w-60"
          />
        </label>
        <button type="submit" className="act-plain" disabled={make.isPending}>
          Make it
        </button>
      </p>
      {make.error && (
        <p role="alert" className="py-2 text-urgent">
          {make.error.message}
        </p>
      )}
      {make.data && <Paste label="It is shown now and never again" text={make.data.token} />}
    </form>
  );
}
