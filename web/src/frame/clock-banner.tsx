import { useQuery } from "@tanstack/react-query";
import type { ReactNode } from "react";
import { healthQuery } from "../api/queries.ts";
import { SectionLink } from "../time/section-link.tsx";

/** Says on every page that the server's clock is not believed. */
export function ClockBanner(): ReactNode {
  const health = useQuery(healthQuery).data;
  if (health?.clockBelieved !== false) return null;
  return (
    <p role="status" className="border-b border-notice bg-wash px-4 py-2 sm:px-7" data-clock-notice>
      This server's clock is far beyond when it ran last, and no other machine says the same. Nothing is deleted or
      signed out by it until that is known to be right.{" "}
      <SectionLink to="/sources/condition" className="word-link">
        Its condition
      </SectionLink>
    </p>
  );
}
