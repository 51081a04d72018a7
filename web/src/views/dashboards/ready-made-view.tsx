import { useMutation, useQueryClient } from "@tanstack/react-query";
import type { ReactNode } from "react";
import { useNavigate, useParams } from "react-router";
import type { DashboardView } from "../../../../core/api/views.ts";
import { readyMade } from "../../../../core/dashboards/ready-made.ts";
import { ask } from "../../api/client.ts";
import { SectionLink } from "../../frame/section-link.tsx";
import { TileGrid } from "./tile-grid.tsx";
import { useStartWindow } from "./use-start-window.ts";

/** A dashboard that comes with the product; it is changed as a copy of one's own. */
export function ReadyMadeView(): ReactNode {
  const { id } = useParams();
  const one = readyMade.find((ready) => ready.id === id);
  const queries = useQueryClient();
  const navigate = useNavigate();
  useStartWindow(one?.document);
  const copy = useMutation({
    mutationFn: () => ask<DashboardView>("POST", "/dashboards", { document: { ...one?.document, tags: [] } }),
    onSuccess: async (made) => {
      await queries.invalidateQueries({ queryKey: ["dashboards"] });
      void navigate(`/dashboards/${made.id}`);
    },
  });
  if (!one) return <p className="py-6">No ready-made dashboard has this name. <SectionLink to="/dashboards" className="word-link">All dashboards</SectionLink></p>;
  return (
    <>
      <div className="mb-3 flex flex-wrap items-baseline gap-x-5 gap-y-1 border-b border-ink pt-2 pb-3">
        <h1 className="text-[26px] leading-none font-bold">{one.document.title}</h1>
        <p className="text-quiet">{one.document.description} Ready-made, kept current by Nubrel.</p>
        <button type="button" className="word-link not-in-print ml-auto" disabled={copy.isPending} onClick={() => copy.mutate()}>make a copy to change</button>
      </div>
      {copy.error && <p role="alert" className="text-urgent">{copy.error.message}</p>}
      <TileGrid tiles={one.document.tiles} />
    </>
  );
}
