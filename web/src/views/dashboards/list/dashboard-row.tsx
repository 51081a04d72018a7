import { May } from "../../../shared/people/may.tsx";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import type { ReactNode } from "react";
import { Link } from "react-router";
import {
  type DashboardListed,
  putDashboardBack,
  removeDashboard,
  starDashboard,
} from "../../../../../core/api/dashboards.ts";
import { call } from "../../../api/client.ts";
import { useToasts } from "../../../shared/toasts.ts";
import { draftWaits } from "../../../frame/drafts-place.ts";
import { momentText } from "../../../time/moments.ts";
import { useTime } from "../../../time/time-provider.tsx";
import { SavedMiniature } from "./board-miniature.tsx";

/** A dashboard in the list: its miniature, what it is for, who changed it last; starred, removed and put back. */
export function DashboardRow({
  dashboard: { id, title, description, tags, tiles, changedAtMs, changedBy, starred },
}: {
  dashboard: DashboardListed;
}): ReactNode {
  const { nowMs } = useTime();
  const queries = useQueryClient();
  const toast = useToasts();
  const refresh = () => queries.invalidateQueries({ queryKey: ["dashboards"] });
  const star = useMutation({
    mutationFn: () => call(starDashboard, { id }, { starred: !starred }),
    onSuccess: refresh,
  });
  const remove = useMutation({
    mutationFn: () => call(removeDashboard, { id }),
    onSuccess: async () => {
      toast({
        text: `"${title}" was removed.`,
        action: { words: "Put it back", run: () => void call(putDashboardBack, { id }).then(refresh) },
        forMs: 15_000,
      });
      await refresh();
    },
  });
  const failure = star.error ?? remove.error;
  return (
    <li
      className="grid gap-x-6 gap-y-2 border-b border-hairline py-3 sm:grid-cols-[320px_minmax(0,1fr)] lg:grid-cols-[320px_minmax(0,1fr)_14rem_8rem]"
      data-dashboard={title}
    >
      <SavedMiniature id={id} />
      <span className="min-w-0">
        <Link to={`/dashboards/${id}`} className="font-bold hover:underline">
          {title}
        </Link>
        <span className="mt-0.5 line-clamp-3 text-[13.5px] text-quiet">
          {[description, tiles === 1 ? "1 tile" : `${tiles} tiles`, ...tags].filter(Boolean).join(" · ")}
        </span>
        {failure && (
          <span role="alert" className="block text-[13px] text-urgent">
            {failure.message}
          </span>
        )}
      </span>
      <span className="text-[13.5px] text-quiet">
        changed <span className="moment">{momentText(changedAtMs, nowMs)}</span>
        {changedBy && ` by ${changedBy}`}
        {draftWaits(id) && <span className="block text-act">a draft of yours waits</span>}
      </span>
      <span className="flex h-fit gap-4">
        <button
          type="button"
          className="word-link"
          aria-pressed={starred}
          onClick={() => star.mutate()}
          aria-label={starred ? `starred: take the star off ${title}` : `star ${title}`}
        >
          {starred ? "starred" : "star"}
        </button>
        <May ask={removeDashboard}>
          <button
            type="button"
            className="word-link"
            disabled={remove.isPending}
            onClick={() => remove.mutate()}
            aria-label={`remove ${title}`}
          >
            remove
          </button>
        </May>
      </span>
    </li>
  );
}
