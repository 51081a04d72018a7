import { May } from "../../shared/people/may.tsx";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import type { ReactNode } from "react";
import { type DashboardView, getDashboard, makeDashboard, saveDashboard } from "../../../../core/api/dashboards.ts";
import { withTile } from "../../../../core/dashboards/arrange-tiles.ts";
import { emptyDashboard, type Tile } from "../../../../core/dashboards/dashboard.ts";
import { call, RequestFailed } from "../../api/client.ts";
import { dashboardsQuery } from "../../api/queries.ts";
import { useToasts } from "../../shared/toasts.ts";
import { useGo } from "../../time/use-go.ts";
import { PopoverPart } from "../../sentence/popover-part.tsx";

/** A tile that has no place yet. */
export type NewTile = Omit<Tile, "id" | "place">;

interface ToDashboardProps {
  readonly tile: NewTile;
  readonly label: string;
  readonly words: string;
  /** Not offered: the one where the tile is. */
  readonly but?: number | undefined;
  readonly onDone?: () => void;
  /** Opens as soon as it is there. */
  readonly isOpen?: boolean;
}

/** Puts a copy of a tile onto another dashboard, or a new one. */
export function ToDashboard({ tile, label, words, but, onDone, isOpen = false }: ToDashboardProps): ReactNode {
  return (
    <May ask={saveDashboard}>
      <PopoverPart label={label} words={words} quiet isOpen={isOpen}>
        {(close) => (
          <Choices
            tile={tile}
            but={but}
            onDone={() => {
              close();
              onDone?.();
            }}
          />
        )}
      </PopoverPart>
    </May>
  );
}

function Choices({ tile, but, onDone }: { tile: NewTile; but: number | undefined; onDone: () => void }): ReactNode {
  const list = useQuery(dashboardsQuery);
  const queries = useQueryClient();
  const toast = useToasts();
  const go = useGo();
  const put = useMutation({
    mutationFn: (id: number | null) =>
      id === null
        ? call(makeDashboard, {}, { document: withTile(emptyDashboard(tile.title || "A tile"), tile) })
        : putTile(id, tile),
    onSuccess: async ({ id, document }) => {
      await queries.invalidateQueries({ queryKey: ["dashboards"] });
      toast({
        text: `"${tile.title || "The tile"}" stands on "${document.title}" now.`,
        action: { words: "Look at it", run: () => go(`/dashboards/${id}`) },
        forMs: 10_000,
      });
      onDone();
    },
  });
  const others = (list.data ?? []).filter(({ id }) => id !== but);
  return (
    <>
      {put.error && (
        <p role="alert" className="mb-2 text-[13px] text-urgent">
          {put.error.message}
        </p>
      )}
      <ul className="max-h-72 overflow-auto">
        {others.map(({ id, title }) => (
          <li key={id}>
            <button
              type="button"
              disabled={put.isPending}
              className="w-full truncate py-0.5 text-left hover:text-act"
              onClick={() => put.mutate(id)}
            >
              {title}
            </button>
          </li>
        ))}
      </ul>
      <button type="button" className="word-link mt-1" disabled={put.isPending} onClick={() => put.mutate(null)}>
        a new dashboard
      </button>
    </>
  );
}

/** Somebody may save it between reading and writing: then it is read again, once. */
async function putTile(id: number, tile: NewTile, again = true): Promise<DashboardView> {
  const { document, revision } = await call(getDashboard, { id });
  const { repeat: _, ignores: __, ...plain } = tile; // pickers are its dashboard's
  try {
    return await call(saveDashboard, { id }, { document: withTile(document, plain), revision });
  } catch (error) {
    if (again && error instanceof RequestFailed && error.status === 409) return putTile(id, tile, false);
    throw error;
  }
}
