import { type ReactNode, useState } from "react";

/** A text to be pasted elsewhere, with a button that copies it. */
export function Paste({ text, label }: { text: string; label: string }): ReactNode {
  const [copied, setCopied] = useState(false);
  return (
    <figure className="my-2">
      <figcaption className="flex items-baseline gap-4 text-[13px] text-quiet">
        {label}
        <button
          type="button"
          className="word-link"
          onClick={() => void navigator.clipboard.writeText(text).then(() => setCopied(true))}
        >
          {copied ? "copied" : "copy"}
        </button>
      </figcaption>
      <pre
        // biome-ignore lint/a11y/noNoninteractiveTabindex: what scrolls must be reachable by keyboard
        tabIndex={0}
        className="figure mt-1 whitespace-pre-wrap break-all border-l-2 border-hairline bg-wash px-4 py-3 text-[13px]"
      >
        {text}
      </pre>
    </figure>
  );
}
