import { useMutation, useQueryClient } from "@tanstack/react-query";
import type { ReactNode } from "react";
import { type LinkView, renewLink, revokeLink } from "../../../../core/api/links.ts";
import { presentSpan } from "../../../../core/units/present.ts";
import { call } from "../../api/client.ts";
import { linksQuery } from "../../api/queries.ts";
import { momentText, spanText } from "../../time/moments.ts";
import { useTime } from "../../time/time-provider.tsx";

/** Links, each with what it shows, how often it was opened, and the words that renew or revoke it. */
export function LinkRows({ links }: { links: readonly LinkView[] }): ReactNode {
  const queries = useQueryClient();
  const refresh = () => queries.invalidateQueries({ queryKey: linksQuery.queryKey });
  const revoke = useMutation({ mutationFn: (id: number) => call(revokeLink, { id }), onSuccess: refresh });
  const renew = useMutation({ mutationFn: (id: number) => call(renewLink, { id }), onSuccess: refresh });
  const failed = revoke.error ?? renew.error;
  return (
    <>
      <ul className="mt-3 max-w-5xl">
        {links.map((link) => (
          <LinkRow
            key={link.id}
            link={link}
            renew={() => renew.mutate(link.id)}
            revoke={() => revoke.mutate(link.id)}
          />
        ))}
      </ul>
      {failed && (
        <p role="alert" className="py-2 text-urgent">
          {failed.message}
        </p>
      )}
    </>
  );
}

interface LinkRowProps {
  readonly link: LinkView;
  readonly renew: () => void;
  readonly revoke: () => void;
}

function LinkRow({ link, renew, revoke }: LinkRowProps): ReactNode {
  const { nowMs } = useTime();
  const { name, tile, window, until, by, version, opened, lastOpenedAtMs, revokedAtMs, origins } = link;
  const isOver = revokedAtMs !== null || (until !== null && Date.parse(until) <= nowMs);
  return (
    <li
      className={`flex flex-wrap items-baseline gap-x-4 border-t border-hairline py-1.5 ${isOver ? "text-quiet" : ""}`}
      data-link={name}
    >
      <span className="max-w-full font-bold break-words">{name}</span>
      <span className="text-[14px] text-quiet">
        version {version}
        {tile !== null && ", one tile"}, {windowWords(window)}
        {origins.length > 0 && `, in frames of ${origins.join(", ")}`}; by {by},{" "}
        {revokedAtMs !== null
          ? "revoked"
          : until === null
            ? "without an end"
            : `${isOver ? "ended" : "until"} ${momentText(Date.parse(until), nowMs)}`}
      </span>
      <span className="text-[14px] text-quiet" data-opened>
        {opened === 0
          ? "never opened"
          : `opened ${opened === 1 ? "once" : `${opened} times`}, last ${momentText(lastOpenedAtMs ?? 0, nowMs)}`}
      </span>
      {!isOver && (
        <span className="ml-auto flex gap-4">
          <button type="button" className="word-link" onClick={renew} aria-label={`show the newest version by ${name}`}>
            show the newest version
          </button>
          <button type="button" className="word-link" onClick={revoke} aria-label={`revoke ${name}`}>
            revoke
          </button>
        </span>
      )}
    </li>
  );
}

function windowWords(window: LinkView["window"]): string {
  if ("last" in window) return `the last ${presentSpan(window.last * 1000)}`;
  const { day, from, to } = spanText(window.from, window.to);
  return `${day}, ${from} to ${to}`;
}
