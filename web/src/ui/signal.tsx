import type { ReactNode } from "react";
import type { Mode, Severity } from "../../../core/rules/rule.ts";

/** The words that stand for the modes of a rule; the shape repeats them, colour comes third. */
export const signalWords: Readonly<Record<Mode, string>> = {
  quiet: "quiet",
  building: "building",
  raised: "raised",
  easing: "easing",
  blind: "no data",
};

/**
 * A mode as a shape of 12 px: open circle, half circle, diamond, ringed dot, hatched square; urgent has a doubled
 * outline.
 */
export function Signal({
  of,
  severity = "notice",
  label,
}: {
  of: Mode;
  severity?: Severity;
  label?: string;
}): ReactNode {
  const colour =
    of === "quiet" || of === "building" ? "var(--quiet)" : severity === "urgent" ? "var(--urgent)" : "var(--notice)";
  return (
    // biome-ignore lint/a11y/noSvgWithoutTitle: it is named by its label or hidden, a title would be read twice
    <svg
      width="12"
      height="12"
      viewBox="0 0 12 12"
      className="inline-block shrink-0"
      {...(label ? { role: "img", "aria-label": label } : { "aria-hidden": true })}
    >
      <g fill="none" stroke={colour} strokeWidth="1.2">
        {of === "quiet" && <circle cx="6" cy="6" r="4" fill="var(--paper)" />}
        {of === "building" && (
          <>
            <circle cx="6" cy="6" r="4" fill="var(--paper)" />
            <path d="M6 2a4 4 0 0 0 0 8z" fill={colour} stroke="none" />
          </>
        )}
        {of === "raised" &&
          (severity === "urgent" ? (
            <>
              <path d="M6 .7 11.3 6 6 11.3.7 6z" fill="var(--paper)" />
              <path d="M6 3.2 8.8 6 6 8.8 3.2 6z" fill={colour} stroke="none" />
            </>
          ) : (
            <path d="M6 1.2 10.8 6 6 10.8 1.2 6z" fill={colour} />
          ))}
        {of === "easing" && (
          <>
            <circle cx="6" cy="6" r="4.6" fill="var(--paper)" />
            {severity === "urgent" && <circle cx="6" cy="6" r="3.2" strokeWidth="0.8" />}
            <circle cx="6" cy="6" r="2" fill={colour} stroke="none" />
          </>
        )}
        {of === "blind" && (
          <>
            <rect x="1.2" y="1.2" width="9.6" height="9.6" fill="var(--paper)" />
            <path d="M1.2 6 6 1.2M1.2 10.8 10.8 1.2M6 10.8 10.8 6" strokeWidth="0.9" />
          </>
        )}
      </g>
    </svg>
  );
}
