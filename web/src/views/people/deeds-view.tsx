import { apiAddress } from "../../api/base-path.ts";
import { useInfiniteQuery } from "@tanstack/react-query";
import { type ReactNode, useDeferredValue, useState } from "react";
import { type Deed, getDeedsFile, listDeeds } from "../../../../core/api/audit.ts";
import { addressOf } from "../../../../core/api/route.ts";
import { call } from "../../api/client.ts";
import { momentText } from "../../time/moments.ts";
import { useTime } from "../../time/time-provider.tsx";
import { PeopleHeading } from "./people-heading.tsx";

const perPage = 100;

/** Every change, way in and refusal, the newest first, and a file of them. */
export function DeedsView(): ReactNode {
  const [who, setWho] = useState("");
  const [text, setText] = useState("");
  const [isRefused, setRefused] = useState(false);
  const filter = {
    ...(who.trim() && { who: who.trim() }),
    ...(text.trim() && { text: text.trim() }),
    ...(isRefused && { refused: true }),
  };
  const asked = useDeferredValue(JSON.stringify(filter));
  const deeds = useInfiniteQuery({
    queryKey: ["deeds", asked],
    queryFn: ({ signal, pageParam }) =>
      call(listDeeds, {}, undefined, {
        signal,
        query: { ...(JSON.parse(asked) as typeof filter), most: perPage, ...(pageParam > 0 && { before: pageParam }) },
      }),
    initialPageParam: 0,
    getNextPageParam: (last) => (last.length < perPage ? undefined : last.at(-1)?.id),
  });
  const all = deeds.data?.pages.flat() ?? [];
  return (
    <>
      <PeopleHeading />
      <form
        role="search"
        className="flex flex-wrap items-baseline gap-x-6 gap-y-2 py-4"
        onSubmit={(e) => e.preventDefault()}
      >
        <label>
          Who <input value={who} onChange={({ target }) => setWho(target.value)} className="ml-1 w-40" />
        </label>
        <label>
          did what <input value={text} onChange={({ target }) => setText(target.value)} className="ml-1 w-48" />
        </label>
        <label className="flex items-baseline gap-2">
          <input
            type="checkbox"
            className="accent-act"
            checked={isRefused}
            onChange={({ target }) => setRefused(target.checked)}
          />
          refused alone
        </label>
        <a className="word-link" href={apiAddress(addressOf(getDeedsFile.path, {}, filter))} download>
          as lines of JSON
        </a>
      </form>
      {deeds.isPending && <p className="text-quiet">reading …</p>}
      {deeds.error && (
        <p role="alert" className="text-urgent">
          {deeds.error.message}
        </p>
      )}
      {deeds.data && all.length === 0 && <p className="text-quiet">Nothing fits.</p>}
      <ul className="max-w-5xl">
        {all.map((deed) => (
          <DeedRow key={deed.id} deed={deed} />
        ))}
      </ul>
      {deeds.hasNextPage && (
        <button
          type="button"
          className="act-plain mt-3"
          disabled={deeds.isFetchingNextPage}
          onClick={() => void deeds.fetchNextPage()}
        >
          Earlier ones
        </button>
      )}
      <p className="max-w-prose pt-6 text-[14px] text-quiet">
        Kept for 400 days. The server adds to it and can change none of it; secrets are left out.
      </p>
    </>
  );
}

function DeedRow({ deed }: { deed: Deed }): ReactNode {
  const { nowMs } = useTime();
  const { who, knownBy, words, subject, place, outcome, atMs, before, after } = deed;
  const isDone = outcome === "done";
  const hasMore = before !== null || after !== null;
  const line = (
    <>
      <span className="moment mr-3 inline-block text-quiet sm:mr-0 sm:w-36">{momentText(atMs, nowMs)}</span>
      <span className="font-bold break-words">{knownBy === "nothing" && who !== "nobody" ? `“${who}”` : who}</span>{" "}
      {words}
      {subject && <span className="figure text-quiet"> {subject}</span>}
      {!isDone && <span className="text-urgent"> {outcome}</span>}
      {place && <span className="figure text-[13px] text-quiet"> from {place}</span>}
    </>
  );
  return (
    <li className="border-t border-hairline py-1.5" data-deed={words}>
      {hasMore ? (
        <details>
          <summary className="cursor-pointer">{line}</summary>
          <div className="mt-2 grid gap-4 pb-2 sm:grid-cols-2">
            <Side title="before" value={before} />
            <Side title="after" value={after} />
          </div>
        </details>
      ) : (
        <div className="pl-4">{line}</div>
      )}
    </li>
  );
}

const Side = ({ title, value }: { title: string; value: unknown }): ReactNode => (
  <figure>
    <figcaption className="text-[13px] text-quiet">{title}</figcaption>
    <pre
      // biome-ignore lint/a11y/noNoninteractiveTabindex: what scrolls must be reachable by keyboard
      tabIndex={0}
      className="figure max-h-80 overflow-auto border-l-2 border-hairline bg-wash px-3 py-2 text-[13px] whitespace-pre-wrap break-all"
    >
      {value === null ? "nothing" : typeof value === "string" ? value : JSON.stringify(value, null, 2)}
    </pre>
  </figure>
);
