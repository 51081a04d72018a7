import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import type { ReactNode } from "react";
import { useForm } from "react-hook-form";
import { changePassword, endSession, endSessions, type SessionView } from "../../../../core/api/people.ts";
import { roleWords } from "../../../../core/people/roles.ts";
import { call, RequestFailed } from "../../api/client.ts";
import { meQuery, sessionsQuery } from "../../api/queries.ts";
import { EntryField } from "../../shared/entry/entry-field.tsx";
import { FailedWords } from "../../shared/entry/failed-words.tsx";
import { NewPasswordField } from "../../shared/entry/new-password-field.tsx";
import { limitsWords } from "../../shared/people/limits-words.ts";
import { CodesPart } from "./codes-part.tsx";
import { momentText } from "../../time/moments.ts";
import { useTime } from "../../time/time-provider.tsx";

/** Where a person is signed in, and their password. */
export function AccountView(): ReactNode {
  const me = useQuery(meQuery).data;
  return (
    <>
      <div className="border-b border-ink pt-2 pb-3">
        <h1 className="text-[26px] leading-none font-bold">{me?.name}</h1>
        {me && (
          <p className="mt-2 text-quiet">
            You are {roleWords[me.role].as} here: {roleWords[me.role].may}.
            {me.limits && ` You see ${limitsWords(me.limits)} alone.`}
          </p>
        )}
      </div>
      <Sessions />
      <Password name={me?.name ?? ""} />
      <CodesPart />
    </>
  );
}

function Sessions(): ReactNode {
  const queries = useQueryClient();
  const sessions = useQuery(sessionsQuery);
  const refresh = () => queries.invalidateQueries({ queryKey: sessionsQuery.queryKey });
  const endOthers = useMutation({
    mutationFn: () => call(endSessions, {}, undefined, { query: { but: "this" } }),
    onSuccess: refresh,
  });
  const end = useMutation({ mutationFn: (id: number) => call(endSession, { id }), onSuccess: refresh });
  const failed = end.error ?? endOthers.error;
  const others = (sessions.data ?? []).filter(({ isThis }) => !isThis).length;
  return (
    <section aria-labelledby="sessions-title" className="py-4">
      <h2 id="sessions-title" className="font-bold">
        Where you are signed in
      </h2>
      {sessions.isPending && <p className="py-2 text-quiet">reading …</p>}
      {sessions.error && (
        <p role="alert" className="py-2 text-urgent">
          {sessions.error.message}
        </p>
      )}
      <ul className="mt-2 max-w-3xl">
        {(sessions.data ?? []).map((one) => (
          <Session key={one.id} session={one} end={() => end.mutate(one.id)} />
        ))}
      </ul>
      {others > 0 && (
        <button
          type="button"
          className="act-plain mt-3"
          disabled={endOthers.isPending}
          onClick={() => endOthers.mutate()}
        >
          {others === 1 ? "End the other" : `End the other ${others}`}
        </button>
      )}
      {failed && (
        <p role="alert" className="py-2 text-urgent">
          {failed.message}
        </p>
      )}
    </section>
  );
}

function Session({ session, end }: { session: SessionView; end: () => void }): ReactNode {
  const { nowMs } = useTime();
  const { device, place, createdAtMs, lastSeenAtMs, isThis } = session;
  return (
    <li
      className="flex flex-wrap items-baseline gap-x-4 border-t border-hairline py-1.5"
      data-session={isThis ? "this" : "other"}
    >
      <span className={isThis ? "font-bold" : ""}>{device || "unknown"}</span>
      <span className="figure text-quiet">{place}</span>
      <span className="text-[14px] text-quiet">
        signed in <span className="figure">{momentText(createdAtMs, nowMs)}</span>, last used{" "}
        <span className="figure">{momentText(lastSeenAtMs, nowMs)}</span>
      </span>
      <span className="ml-auto">
        {isThis ? (
          <span className="text-quiet">this one</span>
        ) : (
          <button type="button" className="word-link" onClick={end} aria-label={`end ${device} at ${place}`}>
            end
          </button>
        )}
      </span>
    </li>
  );
}

function Password({ name }: { name: string }): ReactNode {
  const queries = useQueryClient();
  const { register, handleSubmit, reset } = useForm({ defaultValues: { now: "", next: "" } });
  const change = useMutation({
    mutationFn: (fields: { now: string; next: string }) => call(changePassword, {}, fields),
    onSuccess: async () => {
      reset();
      await queries.invalidateQueries({ queryKey: sessionsQuery.queryKey });
    },
  });
  const failed = change.error instanceof RequestFailed ? change.error : undefined;
  const problemOf = (field: string) => failed?.errors.find(({ path }) => path === field)?.message;
  return (
    <section aria-labelledby="password-title" className="border-t border-hairline py-4">
      <h2 id="password-title" className="font-bold">
        Password
      </h2>
      <p className="max-w-prose text-quiet">A change ends every other sign-in of yours.</p>
      <form className="mt-3 flex max-w-sm flex-col gap-3" onSubmit={handleSubmit((fields) => change.mutate(fields))}>
        <input type="text" autoComplete="username" value={name} readOnly hidden />
        <EntryField
          label="The one now"
          problem={problemOf("now")}
          {...register("now")}
          type="password"
          autoComplete="current-password"
        />
        <NewPasswordField label="The next one" problem={problemOf("next")} {...register("next")} />
        <FailedWords failed={failed} />
        <button type="submit" className="act self-start" disabled={change.isPending}>
          Change it
        </button>
        {change.isSuccess && <p role="status">It is changed; other sign-ins have ended.</p>}
      </form>
    </section>
  );
}
