import { useMutation, useQueryClient } from "@tanstack/react-query";
import { type ReactNode, useState } from "react";
import type { NewToken } from "../../../../core/api/tokens.ts";
import { apiAddress } from "../../api/base-path.ts";
import type { TokenScope } from "../../../../core/people/token-scope.ts";
import { Paste } from "../sources/paste.tsx";
import { scopeWords } from "./token-rows.tsx";

const dayMs = 86_400_000;
const lengths: readonly (readonly [string, string])[] = [
  ["", "until it is revoked"],
  ["31", "for a month"],
  ["92", "for three months"],
  ["365", "for a year"],
];

interface TokenWish<Scope> {
  readonly name: string;
  readonly scope: Scope;
  readonly addresses?: readonly string[];
}

interface TokenFormProps<Scope> {
  /** `until` is ISO 8601; undefined without an end. */
  readonly onMake: (wish: TokenWish<Scope>, until: string | undefined) => Promise<NewToken>;
  /** What it may: what is offered, the first at first. */
  readonly scopes: readonly [Scope, ...Scope[]];
  /** Whether every token has an end. */
  readonly ends?: boolean;
}

/** Makes a token: what it is called, may, how long and from where; its text is shown once. */
export function TokenForm<Scope extends TokenScope>({ onMake, scopes, ends }: TokenFormProps<Scope>): ReactNode {
  const queries = useQueryClient();
  const [name, setName] = useState("");
  const [scope, setScope] = useState<Scope>(scopes[0]);
  const [days, setDays] = useState(ends ? "92" : "");
  const [addresses, setAddresses] = useState("");
  const make = useMutation({
    mutationFn: () =>
      onMake(
        { name: name.trim(), scope, ...(addresses.trim() !== "" && { addresses: addresses.trim().split(/[\s,]+/) }) },
        days === "" ? undefined : new Date(Date.now() + Number(days) * dayMs).toISOString(),
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
            name="name"
            value={name}
            onChange={(event) => setName(event.target.value)}
            className="ml-1 w-44"
          />
        </label>
        that may
        <select
          aria-label="scope"
          name="scope"
          value={scope}
          onChange={(event) => setScope(event.target.value as Scope)}
        >
          {scopes.map((one) => (
            <option key={one} value={one}>
              {scopeWords[one]}
            </option>
          ))}
        </select>
        <select aria-label="how long it works" value={days} onChange={({ target }) => setDays(target.value)}>
          {lengths
            .filter(([value]) => !ends || value !== "")
            .map(([value, words]) => (
              <option key={value} value={value}>
                {words}
              </option>
            ))}
        </select>
        <label>
          from{" "}
          <input
            name="addresses"
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
      {make.data && <Shown {...make.data} />}
    </form>
  );
}

/** In whose addresses a token of these scopes stands: what follows them takes an address and no more. */
const addressesOf: Readonly<Partial<Record<TokenScope, readonly (readonly [string, string])[]>>> = {
  calendar: [["Its address, for a calendar", "/quiet-times.ics"]],
  feed: [
    ["Its address, for a reader of feeds", "/incidents.atom"],
    ["For a calendar", "/incidents.ics"],
  ],
};

function Shown({ token, scope }: NewToken): ReactNode {
  const addresses = addressesOf[scope];
  if (!addresses) return <Paste label="It is shown now and never again" text={token} />;
  return (
    <>
      <p className="pt-2 text-quiet">It is shown now and never again.</p>
      {addresses.map(([label, path]) => (
        <Paste key={path} label={label} text={`${window.location.origin}${apiAddress(path)}?token=${token}`} />
      ))}
    </>
  );
}
