import { useMutation, useQueryClient } from "@tanstack/react-query";
import { type ReactNode, useState } from "react";
import { changePerson, type PersonView, removePerson } from "../../../../core/api/people.ts";
import { call } from "../../api/client.ts";
import { peopleQuery } from "../../api/queries.ts";
import { limitsWords } from "../../shared/people/limits-words.ts";
import { momentText } from "../../time/moments.ts";
import { useTime } from "../../time/time-provider.tsx";
import { LimitsFields } from "./limits-fields.tsx";
import { RoleChoice } from "./role-choice.tsx";

/** A person: what they may, when they were last here; opened, what they are to be. */
export function PersonRow({ person, isMe }: { person: PersonView; isMe: boolean }): ReactNode {
  const { nowMs } = useTime();
  const [isOpen, setOpen] = useState(false);
  const { name, role, limits, lastSeenAtMs } = person;
  return (
    <li className="border-t border-hairline py-2" data-person={name}>
      <p className="flex flex-wrap items-baseline gap-x-4">
        <span className="max-w-full font-bold break-words">{name}</span>
        <span>
          {role}
          {isMe && <span className="text-quiet"> (you)</span>}
        </span>
        {limits && <span className="text-quiet">sees {limitsWords(limits)}</span>}
        <span className="text-[14px] text-quiet">
          {lastSeenAtMs === null ? (
            "not signed in"
          ) : (
            <>
              last here <span className="moment">{momentText(lastSeenAtMs, nowMs)}</span>
            </>
          )}
        </span>
        <button
          type="button"
          className="word-link ml-auto"
          aria-expanded={isOpen}
          aria-label={`change ${name}`}
          onClick={() => setOpen(!isOpen)}
        >
          {isOpen ? "close" : "change"}
        </button>
      </p>
      {isOpen && <PersonForm person={person} close={() => setOpen(false)} />}
    </li>
  );
}

function PersonForm({ person, close }: { person: PersonView; close: () => void }): ReactNode {
  const queries = useQueryClient();
  const [role, setRole] = useState(person.role);
  const [limits, setLimits] = useState(person.limits);
  const [isSure, setSure] = useState(false);
  const refresh = async () => {
    await queries.invalidateQueries({ queryKey: peopleQuery.queryKey });
    close();
  };
  const change = useMutation({
    mutationFn: () => call(changePerson, { id: person.id }, { role, ...(role === "viewer" && { limits }) }),
    onSuccess: refresh,
  });
  const remove = useMutation({ mutationFn: () => call(removePerson, { id: person.id }), onSuccess: refresh });
  const failed = change.error ?? remove.error;
  return (
    <form
      aria-label={`What ${person.name} may`}
      className="py-2"
      onSubmit={(event) => {
        event.preventDefault();
        change.mutate();
      }}
    >
      <RoleChoice name={`role-${person.id}`} value={role} change={setRole} />
      {role === "viewer" && <LimitsFields value={limits} change={setLimits} />}
      <p className="mt-3 flex flex-wrap items-baseline gap-4">
        <button type="submit" className="act" disabled={change.isPending}>
          Keep it so
        </button>
        {isSure ? (
          <>
            <span>{person.name} is signed out at once and comes in no more. What they did keeps their name.</span>
            <button type="button" className="act-plain" disabled={remove.isPending} onClick={() => remove.mutate()}>
              Remove {person.name}
            </button>
            <button type="button" className="word-link" onClick={() => setSure(false)}>
              leave it
            </button>
          </>
        ) : (
          <button type="button" className="word-link" onClick={() => setSure(true)}>
            remove
          </button>
        )}
      </p>
      {failed && (
        <p role="alert" className="py-2 text-urgent">
          {failed.message}
        </p>
      )}
    </form>
  );
}
