import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { type ReactNode, useState } from "react";
import { invitePerson } from "../../../../core/api/people.ts";
import type { Limits, Role } from "../../../../core/people/roles.ts";
import { call } from "../../api/client.ts";
import { invitationsQuery, recipientsQuery } from "../../api/queries.ts";
import { Paste } from "../../shared/sources/paste.tsx";
import { momentText } from "../../time/moments.ts";
import { useTime } from "../../time/time-provider.tsx";
import { LimitsFields } from "./limits-fields.tsx";
import { RoleChoice } from "./role-choice.tsx";

const lengths = [
  [24, "a day"],
  [72, "three days"],
  [168, "a week"],
  [744, "a month"],
] as const;

/** Makes a link that lets one person in. */
export function InviteForm(): ReactNode {
  const { nowMs } = useTime();
  const queries = useQueryClient();
  const recipients = (useQuery(recipientsQuery).data ?? []).filter(({ kind }) => kind === "email");
  const [role, setRole] = useState<Role>("viewer");
  const [limits, setLimits] = useState<Limits | null>(null);
  const [hours, setHours] = useState(72);
  const [recipient, setRecipient] = useState("");
  const invite = useMutation({
    mutationFn: () =>
      call(
        invitePerson,
        {},
        {
          role,
          hours,
          ...(role === "viewer" && { limits }),
          ...(recipient !== "" && { recipient: Number(recipient) }),
        },
      ),
    onSuccess: () => queries.invalidateQueries({ queryKey: invitationsQuery.queryKey }),
  });
  return (
    <section aria-labelledby="invite-title" className="border-t border-hairline py-4">
      <h2 id="invite-title" className="font-bold">
        Invite somebody
      </h2>
      <form
        onSubmit={(event) => {
          event.preventDefault();
          invite.mutate();
        }}
      >
        <RoleChoice name="invited-role" value={role} change={setRole} />
        {role === "viewer" && <LimitsFields value={limits} change={setLimits} />}
        <p className="mt-3 flex flex-wrap items-baseline gap-2">
          <label>
            The link works once, within{" "}
            <select value={hours} onChange={({ target }) => setHours(Number(target.value))}>
              {lengths.map(([of, words]) => (
                <option key={of} value={of}>
                  {words}
                </option>
              ))}
            </select>
          </label>
          <label>
            and is{" "}
            <select value={recipient} onChange={({ target }) => setRecipient(target.value)}>
              <option value="">shown to be copied</option>
              {recipients.map(({ id, name }) => (
                <option key={id} value={id}>
                  shown, and mailed to {name}
                </option>
              ))}
            </select>
          </label>
          <button type="submit" className="act" disabled={invite.isPending}>
            Make the link
          </button>
        </p>
      </form>
      {invite.error && (
        <p role="alert" className="py-2 text-urgent">
          {invite.error.message}
        </p>
      )}
      {invite.data && (
        <>
          <Paste
            label={`For ${invite.data.role === "owner" ? "an owner" : `a ${invite.data.role}`}, until ${momentText(Date.parse(invite.data.until), nowMs)}. It is shown now and never again`}
            text={invite.data.url}
          />
          {invite.data.sent && (
            <p role="status" className={invite.data.sent.worked ? "" : "text-urgent"}>
              {invite.data.sent.worked ? "It was mailed." : `It was not mailed: ${invite.data.sent.answer}`}
            </p>
          )}
        </>
      )}
    </section>
  );
}
