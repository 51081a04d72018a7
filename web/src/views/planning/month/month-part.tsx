import type { ReactNode } from "react";

interface PartProps {
  readonly title: string;
  /** What stands there where nothing is. */
  readonly none?: string;
  readonly heads: readonly string[];
  readonly rows: readonly (readonly ReactNode[])[];
}

/** A small table of the month. */
export function Part({ title, none = "–", heads, rows }: PartProps): ReactNode {
  return (
    <section aria-label={title} className="break-inside-avoid print:mb-5">
      <h2 className="border-b border-hairline pb-0.5 font-bold">{title}</h2>
      {rows.length === 0 ? (
        <p className="py-1 text-quiet">{none}</p>
      ) : (
        <table className="w-full text-[14px]">
          <thead className="sr-only">
            <tr>
              {heads.map((head, i) => (
                // biome-ignore lint/suspicious/noArrayIndexKey: columns are their place
                <th key={i}>{head || "value"}</th>
              ))}
            </tr>
          </thead>
          <tbody>
            {rows.map((row, r) => (
              // biome-ignore lint/suspicious/noArrayIndexKey: rows are their place
              <tr key={r} className="border-b border-hairline">
                {row.map((cell, i) => (
                  <td
                    // biome-ignore lint/suspicious/noArrayIndexKey: columns are their place
                    key={i}
                    className={i === 0 ? "py-0.5 pr-3" : "figure py-0.5 pl-3 text-right whitespace-nowrap"}
                  >
                    {cell}
                  </td>
                ))}
              </tr>
            ))}
          </tbody>
        </table>
      )}
    </section>
  );
}
