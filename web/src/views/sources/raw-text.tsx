import { apiAddress } from "../../api/base-path.ts";
import { useQuery } from "@tanstack/react-query";
import { type ReactNode, useState } from "react";
import { addressOf } from "../../../../core/api/route.ts";
import { getRawText } from "../../../../core/api/sources.ts";

const mostShown = 200_000;

/** The text as last received, letter by letter. */
export function RawText({ id }: { id: number }): ReactNode {
  const [open, setOpen] = useState(false);
  const raw = useQuery({
    queryKey: ["sources", id, "raw"],
    queryFn: async ({ signal }) => {
      const response = await fetch(apiAddress(addressOf(getRawText.path, { id })), { signal });
      if (!response.ok) throw new Error("The text is no longer there; it is kept in memory only.");
      return await response.text();
    },
    enabled: open,
    staleTime: 0,
  });
  return (
    <section aria-labelledby="raw-title" className="border-t border-hairline py-4">
      <h2 id="raw-title" className="font-bold">
        What it said last
      </h2>
      <button type="button" className="word-link" aria-expanded={open} onClick={() => setOpen(!open)}>
        {open ? "hide the text" : "show the text as received"}
      </button>
      {open && raw.data !== undefined && (
        <>
          <button type="button" className="word-link ml-4" onClick={() => void raw.refetch()}>
            read it again
          </button>
          <pre
            // biome-ignore lint/a11y/noNoninteractiveTabindex: what scrolls must be reachable by keyboard
            tabIndex={0}
            data-raw
            className="figure mt-2 max-h-96 overflow-auto border-l-2 border-hairline bg-wash px-4 py-3 text-[12px]"
          >
            {raw.data.slice(0, mostShown)}
          </pre>
          {raw.data.length > mostShown && (
            <p className="text-[13px] text-quiet">
              The first {mostShown.toLocaleString("en")} characters of {raw.data.length.toLocaleString("en")}.
            </p>
          )}
        </>
      )}
      {raw.error && (
        <p role="alert" className="py-2 text-urgent">
          {raw.error.message}
        </p>
      )}
    </section>
  );
}
