import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import type { ReactNode } from "react";
import { type DashboardRevision, type DashboardView, saveDashboard } from "../../../../core/api/dashboards.ts";
import { dashboardChanges } from "../../../../core/dashboards/compare.ts";
import { call } from "../../api/client.ts";
import { dashboardQuery, dashboardVersionsQuery } from "../../api/queries.ts";
import { momentText } from "../../time/moments.ts";
import { useTime } from "../../time/time-provider.tsx";

const mostChanges = 4;

interface VersionsListProps {
  readonly saved: DashboardView;
  /** The version that is looked at; null for the newest. */
  readonly shown: number | null;
  readonly onShow: (version: DashboardRevision | null) => void;
}

/**
 * Every version with who saved it, when, and what it changed: looked at, compared with the newest, and made the newest
 * again.
 */
export function VersionsList({ saved, shown, onShow }: VersionsListProps): ReactNode {
  const { nowMs } = useTime();
  const queries = useQueryClient();
  const versions = useQuery(dashboardVersionsQuery(saved.id));
  const restore = useMutation({
    mutationFn: ({ document }: DashboardRevision) =>
      call(saveDashboard, { id: saved.id }, { document, revision: saved.revision }),
    onSuccess: async (now) => {
      onShow(null);
      queries.setQueryData(dashboardQuery(saved.id).queryKey, now);
      await queries.invalidateQueries({ queryKey: ["dashboards"] });
    },
  });
  const looked = versions.data?.find(({ revision }) => revision === shown);
  return (
    <section aria-label="Versions" className="not-in-print mb-4 border-l-2 border-act py-1 pl-4" data-versions>
      {versions.isPending && <p className="text-quiet">reading …</p>}
      {(versions.error ?? restore.error) && (
        <p role="alert" className="text-urgent">
          {(versions.error ?? restore.error)?.message}
        </p>
      )}
      <ol className="max-h-72 overflow-auto text-[14px]">
        {versions.data?.map((version, i) => (
          <li key={version.revision} className="py-0.5">
            <p className="flex flex-wrap gap-x-4">
              <span className="figure w-8 text-right">{version.revision}</span>
              <span className="moment">{momentText(version.changedAtMs, nowMs)}</span>
              <span>{version.changedBy || "a token"}</span>
              {version.revision === saved.revision ? (
                <span className="text-quiet">
                  the newest
                  {shown !== null && (
                    <button type="button" className="word-link ml-3" onClick={() => onShow(null)}>
                      look at it
                    </button>
                  )}
                </span>
              ) : (
                <>
                  <button
                    type="button"
                    className="word-link"
                    aria-pressed={shown === version.revision}
                    onClick={() => onShow(version)}
                    aria-label={`look at it, version ${version.revision}`}
                  >
                    look at it
                  </button>
                  <button
                    type="button"
                    className="word-link"
                    disabled={restore.isPending}
                    onClick={() => restore.mutate(version)}
                    aria-label={`make it the newest, version ${version.revision}`}
                  >
                    make it the newest
                  </button>
                </>
              )}
            </p>
            <p className="pl-12 text-[13px] text-quiet">
              {changeWords(versions.data[i + 1]?.document, version.document)}
            </p>
          </li>
        ))}
      </ol>
      {looked && (
        <div className="mt-2 border-t border-hairline pt-1 text-[13.5px]" data-compared>
          <p className="text-quiet">From version {looked.revision} to the newest:</p>
          <ul className="list-disc pl-5">
            {listOr(dashboardChanges(looked.document, saved.document), "nothing changed").map((words) => (
              <li key={words}>{words}</li>
            ))}
          </ul>
        </div>
      )}
    </section>
  );
}

function changeWords(before: DashboardView["document"] | undefined, document: DashboardView["document"]): string {
  if (!before)
    return document.tiles.length === 0
      ? "made, without tiles"
      : `made, with ${document.tiles.length === 1 ? "1 tile" : `${document.tiles.length} tiles`}`;
  const all = listOr(dashboardChanges(before, document), "nothing changed");
  return `${all.slice(0, mostChanges).join("; ")}${all.length > mostChanges ? `; and ${all.length - mostChanges} more` : ""}`;
}

const listOr = (all: readonly string[], none: string): readonly string[] => (all.length > 0 ? all : [none]);
