import { useMutation, useQueryClient } from "@tanstack/react-query";
import { Popover } from "radix-ui";
import { type ReactNode, useState } from "react";
import { listDeeds } from "../../../core/api/audit.ts";
import { listLinks } from "../../../core/api/links.ts";
import * as routes from "../../../core/api/people.ts";
import { call } from "../api/client.ts";
import { useMay } from "../shared/people/use-may.ts";
import { SectionLink } from "../time/section-link.tsx";
import { chooseTheme, type ThemeChoice, useThemeChoice } from "../ui/theme.ts";
import { forgetDrafts } from "./drafts-place.ts";

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

/** What belongs to who is signed in: the paper, their pages, the way out. It opens as soon as it is there. */
export function AccountMenu({ name }: { name: string }): ReactNode {
  const queries = useQueryClient();
  const choice = useThemeChoice();
  const may = useMay();
  const [open, setOpen] = useState(true);
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
