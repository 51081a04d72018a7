import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import type { ReactNode } from "react";
import { getMonthSending, type MonthSending, putMonthSending, sendMonth } from "../../../../../core/api/month.ts";
import { call } from "../../../api/client.ts";
import { recipientsQuery } from "../../../api/queries.ts";
import { SelectPart } from "../../../sentence/select-part.tsx";
import { SectionLink } from "../../../time/section-link.tsx";

const queryKey = ["planning", "month", "sending"];
const days = Array.from({ length: 28 }, (_, i) => [String(i + 1), `${i + 1}.`] as const);
const times = Array.from({ length: 24 }, (_, h) => {
  const at = `${String(h).padStart(2, "0")}:00`;
  return [at, at] as const;
});

/** To whom the month is sent, and when. */
export function MonthSendingPart({ month }: { month: string }): ReactNode {
  const client = useQueryClient();
  const sending = useQuery({
    queryKey,
    queryFn: ({ signal }) => call(getMonthSending, {}, undefined, { signal }),
  });
  const recipients = useQuery(recipientsQuery).data ?? [];
  const save = useMutation({
    mutationFn: (next: MonthSending) => call(putMonthSending, {}, next),
    onSuccess: (saved) => client.setQueryData(queryKey, saved),
  });
  const send = useMutation({
    mutationFn: () => call(sendMonth, {}, { month }),
    onSettled: () => client.invalidateQueries({ queryKey }),
  });
  if (!sending.data) return null;
  const { recipients: chosen, day, at, zone, lastSent } = sending.data;
  const set = (change: Partial<MonthSending>) => save.mutate({ recipients: chosen, day, at, zone, ...change });
  return (
    <section aria-labelledby="month-sending" className="not-in-print mt-8 max-w-prose">
      <h2 id="month-sending" className="border-b border-hairline pb-1 font-bold">
        Sent each month
      </h2>
      {recipients.length === 0 ? (
        <p className="py-2 text-quiet">
          Nobody can be told yet:{" "}
          <SectionLink to="/alerts/recipients" className="word-link">
            name a recipient
          </SectionLink>{" "}
          first.
        </p>
      ) : (
        <>
          <p className="leading-8">
            On the{" "}
            <SelectPart
              label="day of the month after"
              value={String(day)}
              options={days}
              onChange={(next) => set({ day: Number(next) })}
            />{" "}
            of the month after, at{" "}
            <SelectPart label="clock time" value={at} options={times} onChange={(next) => set({ at: next })} /> by the
            clock of {zone}, to
          </p>
          <ul>
            {recipients.map(({ id, name, on }) => (
              <li key={id}>
                <label>
                  <input
                    type="checkbox"
                    checked={chosen.includes(id)}
                    onChange={() =>
                      set({ recipients: chosen.includes(id) ? chosen.filter((one) => one !== id) : [...chosen, id] })
                    }
                  />{" "}
                  {name}
                  {!on && <span className="text-quiet"> (switched off)</span>}
                </label>
              </li>
            ))}
          </ul>
          {chosen.length > 0 && (
            <button type="button" className="word-link mt-1" disabled={send.isPending} onClick={() => send.mutate()}>
              {send.isPending ? "sending …" : `Send ${month} now`}
            </button>
          )}
        </>
      )}
      {[save.error, send.error].map(
        (error) =>
          error && (
            <p key={error.message} role="alert" className="text-urgent">
              {error.message}
            </p>
          ),
      )}
      {lastSent && (
        <p className="mt-1 text-[13.5px] text-quiet" role="status">
          {lastSent.month} was sent:{" "}
          {lastSent.outcomes
            .map(({ recipient, worked, answer }) => `${recipient} ${worked ? "has it" : `has it not, ${answer}`}`)
            .join("; ")}
        </p>
      )}
    </section>
  );
}
