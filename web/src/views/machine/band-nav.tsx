import type { ReactNode } from "react";
import { useLocation } from "react-router";
import type { Band } from "../../shared/bands/band.ts";

/** The bands of a page, to jump to. */
export function BandNav({ bands }: { bands: readonly Band[] }): ReactNode {
  const { hash, search } = useLocation();
  return (
    <nav aria-label="Bands" className="not-in-print flex flex-wrap gap-x-4 md:ml-auto">
      {bands.map(({ id, title }) => (
        <a
          key={id}
          href={`${search}#${id}`}
          className={hash === `#${id}` ? "font-bold text-act" : "text-quiet hover:text-ink"}
        >
          {title}
        </a>
      ))}
    </nav>
  );
}
