import * as routes from "../../../core/api/people.ts";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Popover } from "radix-ui";
import { type ReactNode, useState } from "react";
import { useLocation } from "react-router";
import { listDeeds } from "../../../core/api/audit.ts";
import { listCounters } from "../../../core/api/counters.ts";
import { listDashboards } from "../../../core/api/dashboards.ts";
import { askEnergy } from "../../../core/api/energy.ts";
import { listIncidents } from "../../../core/api/incidents.ts";
import { listLinks } from "../../../core/api/links.ts";
import { listMachines } from "../../../core/api/machines.ts";
import { listRecordings } from "../../../core/api/recordings.ts";
import { listSources } from "../../../core/api/sources.ts";
import { useMay } from "../shared/people/use-may.ts";
import { call } from "../api/client.ts";
import { raisedQuery } from "../api/queries.ts";
import { Signal } from "../ui/signal.tsx";
import { Find } from "./find.tsx";
import { forgetDrafts } from "./drafts-place.ts";
import { useRaisedTitle } from "./raised-title.ts";
import { SectionLink } from "../time/section-link.tsx";
import { chooseTheme, type ThemeChoice, useThemeChoice } from "../ui/theme.ts";

/** `needs` is what the section's first page asks. */
const sections = [
  {
    to: "/",
    words: "Fleet",
    has: (path: string) => path === "/" || path.startsWith("/machines") || path === "/steadiness",
    needs: listMachines,
  },
  { to: "/counters", words: "Counters", has: (path: string) => path.startsWith("/counters"), needs: listCounters },
  {
    to: "/dashboards",
    words: "Dashboards",
    has: (path: string) => path.startsWith("/dashboards"),
    needs: listDashboards,
  },
  { to: "/alerts", words: "Alerts", has: (path: string) => path.startsWith("/alerts"), needs: listIncidents },
  {
    to: "/recordings",
    words: "Recordings",
    has: (path: string) => path.startsWith("/recordings"),
    needs: listRecordings,
  },
  { to: "/planning", words: "Planning", has: (path: string) => path.startsWith("/planning"), needs: askEnergy },
  { to: "/sources", words: "Sources", has: (path: string) => path.startsWith("/sources"), needs: listSources },
] as const;

/** One line: word-mark, sections, find, what is raised, the account. */
export function Masthead({ name }: { name: string }): ReactNode {
  const { pathname } = useLocation();
  const may = useMay();
  useRaisedTitle();
  return (
    <header className="not-in-print sticky top-0 z-20 flex flex-wrap items-center gap-x-6 gap-y-1 border-b border-hairline bg-paper px-4 py-2 sm:px-7">
      <SectionLink to="/" className="flex items-center gap-2 text-lg font-bold" aria-label="Nubrel, to the fleet">
        <svg width="18" height="16" viewBox="0 0 18 16" aria-hidden="true" fill="var(--act)">
          <path d="M0 9h2.6v7H0zM5 3h2.6v13H5zM10 6h2.6v10H10zM15 0h2.6v16H15z" />
        </svg>
        nubrel
      </SectionLink>
      <nav aria-label="Sections" className="flex flex-wrap gap-x-5 gap-y-1">
        {sections
          .filter(({ needs }) => may(needs))
          .map(({ to, words, has }) => (
            <SectionLink
              key={to}
              to={to}
              aria-current={has(pathname) ? "page" : undefined}
              className={has(pathname) ? "font-bold" : "text-quiet hover:text-ink"}
            >
              {words}
            </SectionLink>
          ))}
      </nav>
      <div className="ml-auto flex items-center gap-5">
        <Find />
        <RaisedCount />
        <AccountMenu name={name} />
      </div>
    </header>
  );
}

function RaisedCount(): ReactNode {
  const raised = useQuery(raisedQuery).data;
  const open = raised ?? [];
  const severity = open.some(({ severity: of }) => of === "urgent") ? "urgent" : "notice";
  return (
    <SectionLink to="/alerts" className="flex items-center gap-1.5">
      <Signal of={open.length > 0 ? "raised" : "quiet"} severity={severity} />
      <span className="figure font-bold" data-raised-count>
        {raised ? open.length : "–"}
      </span>
      <span className="sr-only">{raised ? "raised" : "what is raised is not known yet"}</span>
    </SectionLink>
  );
}

const themes: readonly (readonly [ThemeChoice, string])[] = [
  ["day", "Day"],
  ["night", "Night"],
  ["system", "As this device"],
];

const pages = [
  { to: "/account", words: "Your sign-ins and password", needs: routes.getMe },
  { to: "/people", words: "People", needs: routes.listPeople },
  { to: "/people/links", words: "Shown by links", needs: listLinks },
  { to: "/people/deeds", words: "Who did what", needs: listDeeds },
] as const;

function AccountMenu({ name }: { name: string }): ReactNode {
  const queries = useQueryClient();
  const choice = useThemeChoice();
  const may = useMay();
  const [open, setOpen] = useState(false);
  const signOut = useMutation({
    mutationFn: () => call(routes.signOut, {}),
    onSuccess: () => {
      forgetDrafts(); // they end with the session: the next who signs in here is another, maybe
      return queries.resetQueries();
    },
  });
  return (
    <Popover.Root open={open} onOpenChange={setOpen}>
      <Popover.Trigger className="text-quiet hover:text-ink">{name}</Popover.Trigger>
      <Popover.Portal>
        <Popover.Content
          align="end"
          sideOffset={10}
          aria-label="Account"
          className="z-40 w-56 border border-hairline bg-paper p-4"
        >
          <fieldset>
            <legend className="text-[13px] text-quiet">Paper</legend>
            {themes.map(([theme, words]) => (
              <label key={theme} className="mt-1 flex cursor-pointer items-center gap-2">
                <input
                  type="radio"
                  name="theme"
                  checked={choice === theme}
                  onChange={() => chooseTheme(theme)}
                  className="accent-act"
                />
                {words}
              </label>
            ))}
          </fieldset>
          <ul className="mt-4 flex flex-col gap-1.5">
            {pages
              .filter(({ needs }) => may(needs))
              .map(({ to, words }) => (
                <li key={to}>
                  <SectionLink to={to} className="word-link" onClick={() => setOpen(false)}>
                    {words}
                  </SectionLink>
                </li>
              ))}
          </ul>
          <button
            type="button"
            className="act-plain mt-4 w-full"
            disabled={signOut.isPending}
            onClick={() => signOut.mutate()}
          >
            Sign out
          </button>
          {signOut.error && (
            <p role="alert" className="mt-2 text-[13px] text-urgent">
              {signOut.error.message}
            </p>
          )}
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}
