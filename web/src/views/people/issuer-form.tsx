import { useMutation } from "@tanstack/react-query";
import type { ReactNode } from "react";
import { useForm } from "react-hook-form";
import { type IssuerView, putIssuer } from "../../../../core/api/issuer.ts";
import { call, RequestFailed } from "../../api/client.ts";
import { EntryField } from "../../shared/entry/entry-field.tsx";
import { FailedWords } from "../../shared/entry/failed-words.tsx";
import { Paste } from "../../shared/sources/paste.tsx";

interface Fields {
  readonly name: string;
  readonly url: string;
  readonly clientId: string;
  readonly secret: string;
  readonly scopes: string;
  readonly claim: string;
  readonly owner: string;
  readonly keeper: string;
  readonly viewer: string;
  readonly others: "" | "viewer" | "keeper";
}

/** Values as they are typed: one in a line or between commas. */
const listed = (text: string): readonly string[] => [
  ...new Set(
    text
      .split(/[,\n]/)
      .map((one) => one.trim())
      .filter((one) => one !== ""),
  ),
];

interface IssuerFormProps {
  readonly saved: IssuerView;
  readonly onSaved: () => Promise<void>;
  readonly onLeave: () => void;
}

/** Names the issuer, and says which values of a claim make somebody what; it is asked before it is kept. */
export function IssuerForm({ saved: { issuer, back }, onSaved, onLeave }: IssuerFormProps): ReactNode {
  const { register, handleSubmit } = useForm<Fields>({
    defaultValues: {
      ...{ name: issuer?.name ?? "", url: issuer?.url ?? "https://", clientId: issuer?.clientId ?? "", secret: "" },
      ...{ scopes: issuer?.scopes ?? "openid profile email", claim: issuer?.roles.claim ?? "groups" },
      owner: issuer?.roles.owner.join(", ") ?? "",
      keeper: issuer?.roles.keeper.join(", ") ?? "",
      viewer: issuer?.roles.viewer.join(", ") ?? "",
      others: issuer?.roles.others ?? "",
    },
  });
  const save = useMutation({
    mutationFn: ({ name, url, clientId, secret, scopes, claim, owner, keeper, viewer, others }: Fields) =>
      call(
        putIssuer,
        {},
        {
          ...{ name, url, clientId, scopes, ...(secret !== "" && { secret }) },
          roles: {
            ...{ claim, owner: listed(owner), keeper: listed(keeper), viewer: listed(viewer) },
            others: others === "" ? null : others,
          },
        },
      ),
    onSuccess: onSaved,
  });
  const failed = save.error instanceof RequestFailed ? save.error : undefined;
  const field = (name: keyof Fields, path: string = name) => ({
    problem: failed?.errors.find((one) => one.path === path)?.message,
    autoComplete: "off",
    ...register(name),
  });
  return (
    <form
      className="mt-3 grid max-w-4xl gap-x-8 gap-y-3 md:grid-cols-2"
      onSubmit={handleSubmit((fields) => save.mutate(fields))}
    >
      <div className="md:col-span-2">
        <Paste label="Tell the issuer that it sends people back to" text={back} />
      </div>
      <EntryField label="What people call it" {...field("name")} maxLength={40} />
      <EntryField label="Its address" {...field("url")} type="url" />
      <EntryField label="What it calls this server (client id)" {...field("clientId")} />
      <EntryField
        label="The secret between both (client secret)"
        hint={issuer?.hasSecret ? "left empty, the one before stays" : "left empty, there is none"}
        {...field("secret")}
        type="password"
        required={false}
      />
      <EntryField label="Scopes that are asked for" {...field("scopes")} />
      <EntryField label="The claim that says what somebody is" {...field("claim", "roles.claim")} />
      <EntryField
        label="Values that make an owner"
        hint="with commas"
        {...field("owner", "roles.owner")}
        required={false}
      />
      <EntryField
        label="Values that make a keeper"
        hint="with commas"
        {...field("keeper", "roles.keeper")}
        required={false}
      />
      <EntryField
        label="Values that make a viewer"
        hint="with commas"
        {...field("viewer", "roles.viewer")}
        required={false}
      />
      <label className="block">
        Everybody else
        <select className="mt-1 block" {...register("others")}>
          <option value="">stays out</option>
          <option value="viewer">is a viewer</option>
          <option value="keeper">is a keeper</option>
        </select>
      </label>
      <div className="md:col-span-2">
        <FailedWords failed={failed} />
        <p className="mt-1 flex gap-3">
          <button type="submit" className="act" disabled={save.isPending}>
            {save.isPending ? "asking it …" : "Ask it and keep it"}
          </button>
          <button type="button" className="act-plain" onClick={onLeave}>
            Leave it
          </button>
        </p>
      </div>
    </form>
  );
}
