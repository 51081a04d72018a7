import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { type ReactNode, useId, useState } from "react";
import type { DashboardView } from "../../../../../core/api/dashboards.ts";
import { type LinkBody, makeLink } from "../../../../../core/api/links.ts";
import { call } from "../../../api/client.ts";
import { linksQuery } from "../../../api/queries.ts";
import { Paste } from "../../../shared/sources/paste.tsx";
import { useTime } from "../../../time/time-provider.tsx";
import { LinkRows } from "../../../shared/people/link-rows.tsx";

const dayMs = 86_400_000;
const lengths: readonly (readonly [string, string])[] = [
  ["1", "for a day"],
  ["7", "for a week"],
  ["31", "for a month"],
  ["366", "for a year"],
  ["", "until somebody revokes it (a wall)"],
];

/** Shows a dashboard to those who have no account: a link is made, and those there are stand below. */
export function SharePart({ dashboard }: { dashboard: DashboardView }): ReactNode {
  const { id, document } = dashboard;
  const { window, span } = useTime();
  const ids = useId();
  const queries = useQueryClient();
  const links = (useQuery(linksQuery).data ?? []).filter((one) => one.dashboard === id);
  const [name, setName] = useState("");
  const [days, setDays] = useState("7");
  const [follows, setFollows] = useState(window.kind === "following");
  const [tile, setTile] = useState("");
  const [origin, setOrigin] = useState("");
  const make = useMutation({
    mutationFn: () => {
      const body: LinkBody = {
        dashboard: id,
        name: name.trim(),
        until: days === "" ? null : new Date(Date.now() + Number(days) * dayMs).toISOString(),
        window: follows
          ? { last: Math.round((span.toMs - span.fromMs) / 1000) }
          : { from: Math.round(span.fromMs), to: Math.round(span.toMs) },
        ...(tile !== "" && { tile }),
        ...(origin.trim() !== "" && { origins: origin.trim().split(/\s+/) }),
      };
      return call(makeLink, {}, body);
    },
    onSuccess: () => queries.invalidateQueries({ queryKey: linksQuery.queryKey }),
  });
  return (
    <section aria-label="Shown by links" className="not-in-print mb-4 border-l-2 border-hairline pl-4">
      <p className="max-w-prose text-quiet">
        Whoever has the link sees this dashboard as it is now, in this time, and nothing else. It needs no account.
      </p>
      <form
        className="mt-3 flex flex-wrap items-end gap-x-4 gap-y-2"
        onSubmit={(event) => {
          event.preventDefault();
          make.mutate();
        }}
      >
        <Labelled id={`${ids}-name`} label="Called">
          <input
            id={`${ids}-name`}
            name="name"
            value={name}
            placeholder={document.title}
            maxLength={200}
            onChange={({ target }) => setName(target.value)}
            className="w-44"
          />
        </Labelled>
        <Labelled id={`${ids}-tile`} label="It shows">
          <select id={`${ids}-tile`} value={tile} onChange={({ target }) => setTile(target.value)} className="max-w-48">
            <option value="">all of it</option>
            {document.tiles.map((one) => (
              <option key={one.id} value={one.id}>
                {one.title || one.id}
              </option>
            ))}
          </select>
        </Labelled>
        <Labelled id={`${ids}-window`} label="Its time">
          <select
            id={`${ids}-window`}
            value={follows ? "follows" : "stays"}
            onChange={({ target }) => setFollows(target.value === "follows")}
          >
            <option value="follows">goes on with now</option>
            <option value="stays">stays as it is here</option>
          </select>
        </Labelled>
        <Labelled id={`${ids}-days`} label="It opens">
          <select id={`${ids}-days`} value={days} onChange={({ target }) => setDays(target.value)}>
            {lengths.map(([value, words]) => (
              <option key={value} value={value}>
                {words}
              </option>
            ))}
          </select>
        </Labelled>
        <Labelled id={`${ids}-origin`} label="May stand in a frame of (none)">
          <input
            id={`${ids}-origin`}
            value={origin}
            placeholder="https://home.example"
            onChange={({ target }) => setOrigin(target.value)}
            className="w-52"
          />
        </Labelled>
        <button type="submit" className="act" disabled={make.isPending}>
          Make the link
        </button>
      </form>
      {make.error && (
        <p role="alert" className="py-2 text-urgent">
          {make.error.message}
        </p>
      )}
      {make.data && <Paste label="It is shown now and never again" text={make.data.url} />}
      {links.length > 0 && <LinkRows links={links} />}
    </section>
  );
}

const Labelled = ({ id, label, children }: { id: string; label: string; children: ReactNode }): ReactNode => (
  <div>
    <label htmlFor={id} className="block text-[13px] text-quiet">
      {label}
    </label>
    {children}
  </div>
);
