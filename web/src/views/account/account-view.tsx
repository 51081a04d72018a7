import { ViewTitle } from "../../ui/view-title.tsx";
import { OwnTokensPart } from "./own-tokens-part.tsx";
import { IssuerPart } from "./issuer-part.tsx";
import { PasskeysPart } from "./passkeys-part.tsx";
import { PasswordPart } from "./password-part.tsx";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import type { ReactNode } from "react";
import { endSession, endSessions, type SessionView } from "../../../../core/api/people.ts";
import { roleWords } from "../../../../core/people/roles.ts";
import { call } from "../../api/client.ts";
import { meQuery, sessionsQuery } from "../../api/queries.ts";
import { limitsWords } from "../../shared/people/limits-words.ts";
import { CodesPart } from "./codes-part.tsx";
import { momentText } from "../../time/moments.ts";
import { useTime } from "../../time/time-provider.tsx";

/** Where a person is signed in, and by what. */
export function AccountView(): ReactNode {
  const me = useQuery(meQuery).data;
  return (
    <>
      <div className="border-b border-ink pt-2 pb-3">
        <ViewTitle words={me?.name ?? ""} tab={me && `Account of ${me.name}`} />
        {me && (
          <p className="mt-2 text-quiet">
            You are {roleWords[me.role].as} here: {roleWords[me.role].may}.
            {me.limits && ` You see ${limitsWords(me.limits)} alone.`}
          </p>
        )}
      </div>
      <Sessions />
      <div className="grid items-start gap-x-12 lg:grid-cols-2">
        <PasskeysPart />
        <PasswordPart name={me?.name ?? ""} />
        <CodesPart />
        <IssuerPart />
      </div>
      {me && <OwnTokensPart role={me.role} />}
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
        signed in <span className="moment">{momentText(createdAtMs, nowMs)}</span>, last used{" "}
        <span className="moment">{momentText(lastSeenAtMs, nowMs)}</span>
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
