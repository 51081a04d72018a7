import { type ReactNode, useId, useState } from "react";
import { type OpenReading, readingFromText } from "./reading-address.ts";

/** The document behind the sentences: to be copied, and to be pasted back. */
export function JsonPart({
  reading,
  onChange,
}: {
  reading: OpenReading;
  onChange: (reading: OpenReading) => void;
}): ReactNode {
  const written = JSON.stringify(reading, null, 2);
  const id = useId();
  const [typed, setTyped] = useState<string | null>(null);
  const [fault, setFault] = useState<string | null>(null);
  const [copied, setCopied] = useState(false);
  const use = () => {
    try {
      onChange(readingFromText(typed ?? written));
      setTyped(null);
      setFault(null);
    } catch (error) {
      setFault((error as Error).message);
    }
  };
  const copy = async () => {
    await navigator.clipboard.writeText(written).then(
      () => setCopied(true),
      () => setFault("This browser does not let a page copy; choose the text and copy it by hand."),
    );
  };
  return (
    <div className="mt-2">
      <label htmlFor={id} className="text-[13px] text-quiet">
        The document behind it, without its window
      </label>
      <textarea
        id={id}
        className="figure mt-1 block h-56 w-full max-w-3xl border border-hairline bg-transparent p-2 text-[12.5px]"
        spellCheck={false}
        value={typed ?? written}
        onChange={(event) => {
          setTyped(event.target.value);
          setCopied(false);
        }}
      />
      <p className="mt-1 flex gap-3">
        <button type="button" className="act-plain !py-0.5" onClick={() => void copy()}>
          {copied ? "copied" : "Copy"}
        </button>
        {typed !== null && typed !== written && (
          <button type="button" className="act !py-0.5" onClick={use}>
            Draw this
          </button>
        )}
        {typed !== null && typed !== written && (
          <button type="button" className="act-plain !py-0.5" onClick={() => setTyped(null)}>
            Leave it
          </button>
        )}
      </p>
      {fault && (
        <p role="alert" className="mt-1 text-[13px] text-urgent">
          {fault}
        </p>
      )}
    </div>
  );
}
