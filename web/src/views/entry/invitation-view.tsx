import { ViewTitle } from "../../ui/view-title.tsx";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import type { ReactNode } from "react";
import { useForm } from "react-hook-form";
import { useNavigate } from "react-router";
import { acceptInvitation, getInvitation } from "../../../../core/api/people.ts";
import { roleWords } from "../../../../core/people/roles.ts";
import { call, RequestFailed } from "../../api/client.ts";
import { meQuery } from "../../api/queries.ts";
import { EntryField } from "../../shared/entry/entry-field.tsx";
import { FailedWords } from "../../shared/entry/failed-words.tsx";
import { NewPasswordField } from "../../shared/entry/new-password-field.tsx";
import { momentText } from "../../time/moments.ts";

/** What somebody sees who opens the link of an invitation: what it is for, and a name and a password to choose. */
export function InvitationView({ code }: { code: string }): ReactNode {
  const queries = useQueryClient();
  const navigate = useNavigate();
  const invitation = useQuery({
    queryKey: ["invitation", code],
    queryFn: ({ signal }) => call(getInvitation, { code }, undefined, { signal }),
    staleTime: Number.POSITIVE_INFINITY,
  });
  const { register, handleSubmit } = useForm({ defaultValues: { name: "", password: "" } });
  const accept = useMutation({
    mutationFn: (fields: { name: string; password: string }) => call(acceptInvitation, { code }, fields),
    onSuccess: async (me) => {
      await queries.resetQueries();
      queries.setQueryData(meQuery.queryKey, me);
      await navigate("/", { replace: true });
    },
  });
  const failed = accept.error instanceof RequestFailed ? accept.error : undefined;
  const problemOf = (field: string) => failed?.errors.find(({ path }) => path === field)?.message;
  if (invitation.isPending) return <p className="p-8 text-quiet">opening …</p>;
  if (invitation.error)
    return (
      <main className="mx-auto max-w-md px-6 pt-[12vh]">
        <ViewTitle words="This invitation opens nothing" className="text-2xl font-bold" />
        <p role="alert" className="mt-3">
          {invitation.error.message}
        </p>
      </main>
    );
  const { by, role, until } = invitation.data;
  return (
    <main className="mx-auto max-w-md px-6 pt-[12vh]">
      <ViewTitle words={`${by} invites you`} className="text-2xl font-bold" />
      <p className="mt-3 text-quiet">
        Into this Nubrel, as {roleWords[role].as}: {roleWords[role].may}. The invitation works once, until{" "}
        <span className="moment">{momentText(Date.parse(until), Date.now())}</span>.
      </p>
      <form className="mt-6 flex flex-col gap-4" onSubmit={handleSubmit((fields) => accept.mutate(fields))}>
        <EntryField label="Name" problem={problemOf("name")} {...register("name")} autoComplete="username" />
        <NewPasswordField label="Password" problem={problemOf("password")} {...register("password")} />
        <FailedWords failed={failed} />
        <button type="submit" className="act self-start" disabled={accept.isPending}>
          {accept.isPending ? "one moment …" : "Come in"}
        </button>
      </form>
    </main>
  );
}
