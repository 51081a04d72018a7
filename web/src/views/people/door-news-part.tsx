import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import type { ReactNode } from "react";
import { type DoorNews, type DoorNewsSettings, doorNews, putDoorNews } from "../../../../core/api/door-news.ts";
import { call } from "../../api/client.ts";
import { doorNewsQuery, recipientsQuery } from "../../api/queries.ts";
import { SelectPart } from "../../sentence/select-part.tsx";
import { SectionLink } from "../../time/section-link.tsx";
import { momentText } from "../../time/moments.ts";
import { useTime } from "../../time/time-provider.tsx";

const words: Readonly<Record<DoorNews, string>> = {
  wrong: "sign-ins that were wrong",
  places: "sign-ins at new places",
  tokens: "tokens that were made",
};

/** To whom what happens at the door is told besides, and of what. */
export function DoorNewsPart(): ReactNode {
  const { nowMs } = useTime();
  const queries = useQueryClient();
  const news = useQuery(doorNewsQuery);
  const recipients = useQuery(recipientsQuery).data ?? [];
  const save = useMutation({
    mutationFn: (next: DoorNewsSettings) => call(putDoorNews, {}, next),
    onSuccess: (kept) => queries.setQueryData(doorNewsQuery.queryKey, kept),
  });
  if (!news.data) return null;
  const { recipient, of, lastSent } = news.data;
  const toggled = (one: DoorNews) => (of.includes(one) ? of.filter((kind) => kind !== one) : [...of, one]);
  return (
    <section aria-labelledby="door-news-title" className="border-t border-hairline py-4" data-door-news>
      <h2 id="door-news-title" className="font-bold">
        Told to somebody
      </h2>
      <p className="max-w-prose text-quiet">
        Everybody is told on their pages where they signed in anew; all of it stands under Who did what. A recipient can
        be told besides.
      </p>
      {recipients.length === 0 ? (
        <p className="py-2">
          There is no recipient yet.{" "}
          <SectionLink to="/alerts/recipients" className="word-link">
            Make one
          </SectionLink>
        </p>
      ) : (
        <p className="py-2 leading-8">
          Told is{" "}
          <SelectPart
            label="who is told of the door"
            value={String(recipient ?? "")}
            options={[["", "nobody"], ...recipients.map(({ id, name }) => [String(id), name] as const)]}
            onChange={(value) => save.mutate({ recipient: value === "" ? null : Number(value), of })}
          />
          , within a minute, of
        </p>
      )}
      {recipients.length > 0 && (
        <ul>
          {doorNews.map((one) => (
            <li key={one}>
              <label className="flex items-baseline gap-2">
                <input
                  type="checkbox"
                  className="accent-act"
                  checked={of.includes(one)}
                  onChange={() => save.mutate({ recipient, of: toggled(one) })}
                />
                {words[one]}
              </label>
            </li>
          ))}
        </ul>
      )}
      {lastSent && (
        <p className={`py-1 text-[14px] ${lastSent.worked ? "text-quiet" : "text-urgent"}`}>
          Last told <span className="moment">{momentText(lastSent.atMs, nowMs)}</span>
          {!lastSent.worked && `, which did not arrive and is told again: ${lastSent.answer}`}
        </p>
      )}
      {save.error && (
        <p role="alert" className="py-1 text-urgent">
          {save.error.message}
        </p>
      )}
    </section>
  );
}
