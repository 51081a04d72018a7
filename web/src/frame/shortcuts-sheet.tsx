import { type ReactNode, useCallback, useRef } from "react";
import { shortcuts, useKeys } from "./shortcuts.ts";

/** All keys at a glance; `?` opens it. */
export function ShortcutsSheet(): ReactNode {
  const sheet = useRef<HTMLDialogElement>(null);
  useKeys(
    useCallback((key) => {
      if (key !== "?") return false;
      sheet.current?.showModal();
      return true;
    }, []),
  );
  return (
    <dialog
      ref={sheet}
      aria-labelledby="keys-title"
      className="m-auto max-h-[85vh] w-[30rem] max-w-[calc(100vw-2rem)] overflow-auto border border-ink bg-paper p-6 text-ink backdrop:bg-paper/70"
    >
      <h2 id="keys-title" className="text-lg font-bold">
        Keys
      </h2>
      <dl className="mt-3 grid grid-cols-[7.5rem_minmax(0,1fr)] gap-y-1.5">
        {shortcuts.map(({ keys, words, ...more }) => (
          <div key={words} className="contents">
            <dt className="figure">
              {keys.map((key, i) => (
                <span key={key}>
                  {i > 0 && ("joined" in more ? ` ${more.joined} ` : " ")}
                  <Key name={key} />
                </span>
              ))}
            </dt>
            <dd>{words}</dd>
          </div>
        ))}
      </dl>
      <form method="dialog">
        <button type="submit" className="act-plain mt-5">
          Close
        </button>
      </form>
    </dialog>
  );
}

const Key = ({ name }: { name: string }): ReactNode => <kbd className="border border-hairline px-1.5">{name}</kbd>;
