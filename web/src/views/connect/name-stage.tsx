import type { UseMutationResult } from "@tanstack/react-query";
import type { ReactNode } from "react";
import { IntervalField } from "../../shared/sources/interval-field.tsx";
import { problemWords } from "../../shared/sources/problem-words.ts";
import { Stage } from "../../shared/sources/stage.tsx";

interface NameStageProps {
  readonly name: string;
  readonly onName: (name: string) => void;
  readonly seconds: number;
  readonly onSeconds: (seconds: number) => void;
  /** How many values an answer has, and how long it took, where that is known. */
  readonly series?: number | undefined;
  readonly tookMs?: number | undefined;
  readonly save: UseMutationResult<unknown, Error, void>;
  readonly disabled?: boolean;
  /** Further fields, after the name. */
  readonly children?: ReactNode;
}

/** The last step of connecting: a name, the interval with its cost, and the button. */
export function NameStage({
  name,
  onName,
  seconds,
  onSeconds,
  series,
  tookMs,
  save,
  disabled = false,
  children,
}: NameStageProps): ReactNode {
  return (
    <>
      <div className="pt-6">
        <Stage n={4} words="What do you call it, and how often is it asked?" />
      </div>
      <div className="flex flex-wrap items-start gap-4">
        <label>
          call it{" "}
          <input
            required
            maxLength={100}
            value={name}
            onChange={(event) => onName(event.target.value)}
            className="ml-1 w-52"
          />
        </label>
        {children}
        <IntervalField seconds={seconds} onChange={onSeconds} series={series} tookMs={tookMs} />
      </div>
      <button type="submit" className="act mt-4" disabled={save.isPending || disabled}>
        {save.isPending ? "connecting …" : "Connect it"}
      </button>
      {save.error && (
        <p role="alert" className="py-2 text-urgent">
          {problemWords(save.error)}
        </p>
      )}
    </>
  );
}
