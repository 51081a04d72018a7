import { useQuery } from "@tanstack/react-query";
import type { ReactNode } from "react";
import { sourcesQuery } from "../../api/queries.ts";

/** Where a source is asked from: here, or a relay at its own site. Nothing where there is no relay. */
export function AskedFromField({
  from,
  onChange,
}: {
  from: number | null;
  onChange: (from: number | null) => void;
}): ReactNode {
  const relays = useQuery(sourcesQuery).data?.filter(({ kind }) => kind === "relay") ?? [];
  if (relays.length === 0 && from === null) return null;
  return (
    <p className="pb-3">
      <label>
        asked from{" "}
        <select
          name="askedFrom"
          className="ml-1"
          value={from ?? ""}
          onChange={(event) => onChange(event.target.value === "" ? null : Number(event.target.value))}
        >
          <option value="">here</option>
          {relays.map(({ id, name }) => (
            <option key={id} value={id}>
              {name}
            </option>
          ))}
        </select>
      </label>
    </p>
  );
}
