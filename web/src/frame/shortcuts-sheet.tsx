import { Dialog } from "radix-ui";
import { type ReactNode, useCallback, useState } from "react";
import { shortcuts, useKeys } from "./shortcuts.ts";

/** All keys at a glance; `?` opens it. */
export function ShortcutsSheet(): ReactNode {
  const [open, setOpen] = useState(false);
  useKeys(
    useCallback((key) => {
      if (key !== "?") return false;
      setOpen(true);
      return true;
    }, []),
  );
  return (
    <Dialog.Root open={open} onOpenChange={setOpen}>
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 z-40 bg-paper/70" />
        <Dialog.Content aria-describedby={undefined} className="fixed top-1/2 left-1/2 z-50 max-h-[85vh] w-[30rem] max-w-[calc(100vw-2rem)] -translate-x-1/2 -translate-y-1/2 overflow-auto border border-ink bg-paper p-6">
          <Dialog.Title className="text-lg font-bold">Keys</Dialog.Title>
          <dl className="mt-3 grid grid-cols-[7rem_minmax(0,1fr)] gap-y-1.5">
            {shortcuts.map((one) => (
              <div key={one.words} className="contents">
                <dt className="figure">
                  {one.keys.map((key, i) => <span key={key}>{i > 0 && " or "}<kbd className="border border-hairline px-1.5">{key}</kbd></span>)}
                  {"to" in one && <> to <kbd className="border border-hairline px-1.5">{one.to}</kbd></>}
                </dt>
                <dd>{one.words}</dd>
              </div>
            ))}
            <div className="contents">
              <dt className="figure"><kbd className="border border-hairline px-1.5">←</kbd> <kbd className="border border-hairline px-1.5">→</kbd></dt>
              <dd>move a bracket of the rail that has the focus; with Shift farther</dd>
            </div>
            <div className="contents">
              <dt>Shift and brush</dt>
              <dd>on a chart: note what happened then</dd>
            </div>
          </dl>
          <Dialog.Close className="act-plain mt-5">Close</Dialog.Close>
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}
