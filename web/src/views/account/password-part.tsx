import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import type { ReactNode } from "react";
import { useForm } from "react-hook-form";
import { changePassword, dropPassword } from "../../../../core/api/people.ts";
import { call, RequestFailed } from "../../api/client.ts";
import { sessionsQuery, waysInQuery } from "../../api/queries.ts";
import { EntryField } from "../../shared/entry/entry-field.tsx";
import { FailedWords } from "../../shared/entry/failed-words.tsx";
import { NewPasswordField } from "../../shared/entry/new-password-field.tsx";

/** The password of the one who looks: changed, given up for passkeys, set again. */
export function PasswordPart({ name }: { name: string }): ReactNode {
  const queries = useQueryClient();
  const ways = useQuery(waysInQuery).data;
  const refresh = () =>
    Promise.all([sessionsQuery, waysInQuery].map(({ queryKey }) => queries.invalidateQueries({ queryKey })));
  const { register, handleSubmit, reset } = useForm({ defaultValues: { now: "", next: "" } });
  const change = useMutation({
    mutationFn: (fields: { now: string; next: string }) => call(changePassword, {}, fields),
    onSuccess: () => {
      reset();
      return refresh();
    },
  });
  const drop = useMutation({ mutationFn: () => call(dropPassword, {}), onSuccess: refresh });
  const failed = change.error instanceof RequestFailed ? change.error : undefined;
  const problemOf = (field: string) => failed?.errors.find(({ path }) => path === field)?.message;
  if (!ways) return null;
  return (
    <section aria-labelledby="password-title" className="border-t border-hairline py-4">
      <h2 id="password-title" className="font-bold">
        Password
      </h2>
      <p className="max-w-prose text-quiet">
        {ways.hasPassword ? "A change ends every other sign-in of yours." : "You have none, and sign in by passkeys."}
      </p>
      <form className="mt-3 flex max-w-sm flex-col gap-3" onSubmit={handleSubmit((fields) => change.mutate(fields))}>
        <input type="text" autoComplete="username" value={name} readOnly hidden />
        {ways.hasPassword && (
          <EntryField
            label="Password now"
            problem={problemOf("now")}
            {...register("now")}
            type="password"
            autoComplete="current-password"
          />
        )}
        <NewPasswordField
          label={ways.hasPassword ? "Next password" : "A password"}
          problem={problemOf("next")}
          {...register("next")}
        />
        <FailedWords failed={failed} />
        <button type="submit" className="act self-start" disabled={change.isPending}>
          {ways.hasPassword ? "Change it" : "Set it"}
        </button>
        {change.isSuccess && <p role="status">It is changed; other sign-ins have ended.</p>}
      </form>
      {ways.hasPassword && ways.passkeys > 0 && (
        <p className="mt-3">
          <button type="button" className="word-link" disabled={drop.isPending} onClick={() => drop.mutate()}>
            sign in by passkeys alone
          </button>{" "}
          <span className="text-[14px] text-quiet">and give the password up</span>
        </p>
      )}
      {drop.error && (
        <p role="alert" className="py-2 text-urgent">
          {drop.error.message}
        </p>
      )}
    </section>
  );
}
