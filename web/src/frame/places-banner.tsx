import { SectionLink } from "../time/section-link.tsx";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import type { ReactNode } from "react";
import { type ChangeView, disownPlace, knowChange, knowPlace, type PlaceView } from "../../../core/api/places.ts";
import { call } from "../api/client.ts";
import { myTokensQuery, newChangesQuery, newPlacesQuery } from "../api/queries.ts";
import { useToasts } from "../shared/toasts.ts";
import { tokenEndsSoon } from "../shared/sources/token-ends.ts";
import { dayOf, momentText } from "../time/moments.ts";
import { useTime } from "../time/time-provider.tsx";
import { useGo } from "../time/use-go.ts";

const askedEveryMs = 60_000;
const mostNamed = 3;

/**
 * On every page: that somebody signed in as the one who looks where they never had, or changed what
 * they sign in by, and which of their tokens end soon.
 */
export function PlacesBanner(): ReactNode {
  const places = useQuery({ ...newPlacesQuery, refetchInterval: askedEveryMs }).data ?? [];
  const changes = useQuery({ ...newChangesQuery, refetchInterval: askedEveryMs }).data ?? [];
  const { nowMs } = useTime();
  const ending = (useQuery(myTokensQuery).data ?? []).filter((one) => tokenEndsSoon(one, nowMs));
  if (places.length === 0 && changes.length === 0 && ending.length === 0) return null;
  return (
    <section
      aria-label="What is new of your sign-ins"
      className="not-in-print border-b border-notice px-4 py-1.5 text-[14px] sm:px-7"
      data-new-places
    >
      {places.slice(0, mostNamed).map((place) => (
        <NewPlace key={place.id} place={place} />
      ))}
      {places.length > mostNamed && <p className="text-quiet">and at {places.length - mostNamed} places more</p>}
      {changes.slice(0, mostNamed).map((change) => (
        <NewChange key={change.id} change={change} />
      ))}
      {ending.slice(0, mostNamed).map(({ id, name, until }) => (
        <p key={id} data-token-ends={name}>
          Your token {name} ends on {dayOf(Date.parse(until as string))}.{" "}
          <SectionLink to="/account" className="word-link">
            Make the next
          </SectionLink>
        </p>
      ))}
    </section>
  );
}

function NewChange({ change: { id, words, atMs } }: { change: ChangeView }): ReactNode {
  const { nowMs } = useTime();
  const queries = useQueryClient();
  const know = useMutation({
    mutationFn: () => call(knowChange, { id }),
    onSuccess: () => queries.invalidateQueries({ queryKey: newChangesQuery.queryKey }),
  });
  return (
    <p className="flex flex-wrap items-baseline gap-x-3" data-new-change>
      <span>
        Elsewhere somebody who is signed in as you {words}, <span className="moment">{momentText(atMs, nowMs)}</span>.
      </span>
      <button type="button" className="word-link" disabled={know.isPending} onClick={() => know.mutate()}>
        It was me
      </button>
      <SectionLink to="/account" className="word-link text-urgent">
        It was not: look at it
      </SectionLink>
    </p>
  );
}

function NewPlace({ place: { id, device, network, atMs } }: { place: PlaceView }): ReactNode {
  const { nowMs } = useTime();
  const queries = useQueryClient();
  const toast = useToasts();
  const go = useGo();
  const refresh = () => queries.invalidateQueries({ queryKey: newPlacesQuery.queryKey });
  const know = useMutation({ mutationFn: () => call(knowPlace, { id }), onSuccess: refresh });
  const disown = useMutation({
    mutationFn: () => call(disownPlace, { id }),
    onSuccess: async () => {
      toast({ text: "Sign-ins there have ended. Whoever it was knew your password: change it." });
      await refresh();
      go("/account");
    },
  });
  const failed = know.error ?? disown.error;
  return (
    <p className="flex flex-wrap items-baseline gap-x-3" data-new-place>
      <span>
        Signed in as you at a new place: {device || "an unknown program"} from <span className="figure">{network}</span>
        , <span className="moment">{momentText(atMs, nowMs)}</span>.
      </span>
      <button type="button" className="word-link" disabled={know.isPending} onClick={() => know.mutate()}>
        It was me
      </button>
      <button
        type="button"
        className="word-link text-urgent"
        disabled={disown.isPending}
        onClick={() => disown.mutate()}
      >
        It was not: end it
      </button>
      {failed && (
        <span role="alert" className="text-urgent">
          {failed.message}
        </span>
      )}
    </p>
  );
}
