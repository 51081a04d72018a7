import { rootAddress } from "../../api/base-path.ts";
import { useQuery } from "@tanstack/react-query";
import { type ReactNode, useState } from "react";
import { transportQuery } from "../../api/queries.ts";

/** From which addresses a machine reaches the server, and which of them stands in the texts to be pasted. */
export interface Place {
  readonly choices: readonly string[];
  readonly chosen: string;
  readonly isLoopbackOnly: boolean;
  readonly choose: (origin: string) => void;
}

const isLoopback = (origin: string): boolean => /^https?:\/\/(localhost|127\.\d+\.\d+\.\d+|\[::1\])(:|$)/.test(origin);

/**
 * The address of this page, where others reach it by that too; else those that the server knows of itself. Loopback
 * leads another machine to itself, and is the last choice.
 */
export function useReachedAt(): Place {
  const transport = useQuery(transportQuery).data;
  const here = rootAddress();
  const choices = [...new Set([...(isLoopback(here) ? [] : [here]), ...(transport?.reachedAt ?? []), here])];
  const [chosen, choose] = useState<string>();
  return {
    choices,
    chosen: chosen !== undefined && choices.includes(chosen) ? chosen : (choices[0] as string),
    isLoopbackOnly: transport?.isLoopbackOnly ?? false,
    choose,
  };
}

export function ReachedAt({ place: { choices, chosen, isLoopbackOnly, choose } }: { place: Place }): ReactNode {
  return (
    <div className="py-2" data-reached-at>
      {isLoopbackOnly && !isLoopback(chosen) && (
        <p className="max-w-prose text-notice">
          The server listens on this machine alone, so that no other machine can reach it yet. Start it with{" "}
          <span className="figure">NUBREL_HOST=0.0.0.0</span> and <span className="figure">NUBREL_TLS=house</span>, and
          it listens for others and makes its own certificate (docs/operate.md, <em>Exposing it safely</em>). Then take
          the text from the page of this source, under <em>Its tokens</em>: it holds the certificate's key as well.
        </p>
      )}
      {choices.length > 1 && (
        <label className="flex flex-wrap items-center gap-2">
          the machine reaches the server at
          <select className="part" value={chosen} onChange={({ target }) => choose(target.value)}>
            {choices.map((origin) => (
              <option key={origin} value={origin}>
                {isLoopback(origin) ? `${origin} (from this machine itself)` : origin}
              </option>
            ))}
          </select>
        </label>
      )}
    </div>
  );
}
