import { ViewTitle } from "../../ui/view-title.tsx";
import { NewPasswordField } from "../../shared/entry/new-password-field.tsx";
import { NotInWords } from "../../shared/entry/not-in-words.tsx";
import { ByOthers } from "./by-others.tsx";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { type ReactNode, useState } from "react";
import { useForm } from "react-hook-form";
import { setUp, signIn } from "../../../../core/api/people.ts";
import { FailedWords } from "../../shared/entry/failed-words.tsx";
import { EntryField } from "../../shared/entry/entry-field.tsx";
import { call, RequestFailed } from "../../api/client.ts";
import { meQuery, demoQuery, setupQuery } from "../../api/queries.ts";

interface EntryFields {
  readonly code: string;
  readonly name: string;
  readonly password: string;
  readonly next: string;
}

/** The door: the owner is made on the first visit, people sign in afterwards. */
export function Entry(): ReactNode {
  const setup = useQuery(setupQuery);
  if (setup.isPending) return null;
  if (setup.error)
    return (
      <p role="alert" className="p-8">
        {setup.error.message}
      </p>
    );
  return setup.data.needed ? <EntryForm first /> : <EntryForm first={false} />;
}

function EntryForm({ first }: { first: boolean }): ReactNode {
  const queries = useQueryClient();
  const demo = useQuery(demoQuery).data;
  const { register, handleSubmit } = useForm<EntryFields>({
    defaultValues: { code: "", name: "", password: "", next: "" },
  });
  const enter = useMutation({
    mutationFn: ({ code, name, password, next }: EntryFields) =>
      first
        ? call(setUp, {}, { code, name, password })
        : call(signIn, {}, { name, password, ...(code !== "" && { code }), ...(next !== "" && { next }) }),
    onSuccess: (me) => queries.setQueryData(meQuery.queryKey, me),
  });
  const failed = enter.error instanceof RequestFailed ? enter.error : undefined;
  const [asksCode, setAsksCode] = useState(false);
  if (failed?.asks === "code" && !asksCode) setAsksCode(true);
  const [asksNext, setAsksNext] = useState(false);
  if (failed?.asks === "next" && !asksNext) setAsksNext(true);
  const problemOf = (field: string) => failed?.errors.find(({ path }) => path === field)?.message;
  return (
    <main className="mx-auto max-w-md px-6 pt-[12vh]">
      <ViewTitle
        tab={first ? "Set up" : "Sign in"}
        words={first ? "Make this Nubrel yours" : "Sign in to Nubrel"}
        className="text-2xl font-bold"
      />
      <p className="mt-3 text-quiet">
        {first
          ? "You become its owner. The set-up code stands in the terminal where Nubrel was started; it shows that this machine is yours."
          : "With the name and password of your account here."}
      </p>
      <NotInWords />
      {!first && demo && (
        <p className="mt-3 border-l-2 border-act pl-4" data-demo>
          This is the sample world, served on this machine only: everything in it is made up. Sign in as{" "}
          <strong>{demo.name}</strong> with the password <strong className="figure">{demo.password}</strong>
        </p>
      )}
      <form className="mt-6 flex flex-col gap-4" onSubmit={handleSubmit((fields) => enter.mutate(fields))}>
        {first && (
          <EntryField
            label="Set-up code"
            problem={problemOf("code")}
            {...register("code")}
            autoComplete="one-time-code"
          />
        )}
        <EntryField label="Name" problem={problemOf("name")} {...register("name")} autoComplete="username" />
        <EntryField
          label="Password"
          hint={first ? "12 characters or more; four unrelated words do well" : undefined}
          problem={problemOf("password")}
          {...register("password")}
          type="password"
          autoComplete={first ? "new-password" : "current-password"}
        />
        {asksNext && <NewPasswordField label="A password of yours" problem={problemOf("next")} {...register("next")} />}
        {asksCode && (
          <EntryField
            label="Code"
            hint="the one that your device shows now, or one for recovery"
            problem={problemOf("code")}
            {...register("code")}
            autoComplete="one-time-code"
          />
        )}
        <FailedWords failed={failed} />
        <button type="submit" className="act self-start" disabled={enter.isPending}>
          {enter.isPending ? "one moment …" : first ? "Make the account" : "Sign in"}
        </button>
      </form>
      {!first && <ByOthers />}
    </main>
  );
}
