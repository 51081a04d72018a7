import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import type { ReactNode } from "react";
import type { DashboardRevision, DashboardView } from "../../../../core/api/views.ts";
import { ask } from "../../api/client.ts";
import { dashboardQuery, dashboardVersionsQuery } from "../../api/queries.ts";
import { momentText } from "../../time/moments.ts";
import { useTime } from "../../time/time-provider.tsx";

interface VersionsListProps {
  readonly saved: DashboardView;
  /** The version that is looked at; null for the newest. */
  readonly shown: number | null;
  readonly onShow: (version: DashboardRevision | null) => void;
}

/** Every version with who saved it and when: looked at, and made the newest again. */
export function VersionsList({ saved, shown, onShow }: VersionsListProps): ReactNode {
  const { nowMs } = useTime();
  const queries = useQueryClient();
  const versions = useQuery(dashboardVersionsQuery(saved.id));
  const restore = useMutation({
    mutationFn: ({ document }: DashboardRevision) => ask<DashboardView>("PUT", `/dashboards/${saved.id}`, { document, revision: saved.revision }),
    onSuccess: async (now) => {
      onShow(null);
      queries.setQueryData(dashboardQuery(saved.id).queryKey, now);
      await queries.invalidateQueries({ queryKey: ["dashboards"] });
    },
  });
  return (
    <section aria-label="Versions" className="not-in-print mb-4 border-l-2 border-act py-1 pl-4" data-versions>
      {versions.isPending && <p className="text-quiet">reading …</p>}
      {(versions.error ?? restore.error) && <p role="alert" className="text-urgent">{(versions.error ?? restore.error)?.message}</p>}
      <ol className="max-h-56 overflow-auto text-[14px]">
        {versions.data?.map((version) => (
          <li key={version.revision} className="flex flex-wrap gap-x-4 py-0.5">
            <span className="figure w-8 text-right">{version.revision}</span>
            <span className="figure">{momentText(version.changedAtMs, nowMs)}</span>
            <span>{version.changedBy || "a token"}</span>
            <span className="text-quiet">{version.document.title}, {version.document.tiles.length === 1 ? "1 tile" : `${version.document.tiles.length} tiles`}</span>
            {version.revision === saved.revision ? (
              <span className="text-quiet">the newest{shown !== null && <button type="button" className="word-link ml-3" onClick={() => onShow(null)}>look at it</button>}</span>
            ) : (
              <>
                <button type="button" className="word-link" aria-pressed={shown === version.revision} onClick={() => onShow(version)} aria-label={`look at it, version ${version.revision}`}>look at it</button>
                <button type="button" className="word-link" disabled={restore.isPending} onClick={() => restore.mutate(version)} aria-label={`make it the newest, version ${version.revision}`}>make it the newest</button>
              </>
            )}
          </li>
        ))}
      </ol>
    </section>
  );
}
