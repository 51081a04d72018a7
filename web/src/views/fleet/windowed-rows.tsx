import { useWindowVirtualizer } from "@tanstack/react-virtual";
import type { ReactNode } from "react";

interface WindowedRowsProps {
  readonly count: number;
  /** Where the table begins on the page, px. */
  readonly top: number;
  readonly heightOf: (index: number) => number;
  readonly keyOf: (index: number) => string;
  readonly draw: (index: number) => ReactNode;
}

/** Rows of a table that are many: those near the screen are drawn, and the room of the others is kept. */
export function WindowedRows({ count, top, heightOf, keyOf, draw }: WindowedRowsProps): ReactNode {
  const virtual = useWindowVirtualizer({
    count,
    estimateSize: heightOf,
    overscan: 8,
    scrollMargin: top,
    getItemKey: keyOf,
  });
  const shown = virtual.getVirtualItems();
  const before = (shown[0]?.start ?? top) - top;
  const after = virtual.getTotalSize() - ((shown.at(-1)?.end ?? top) - top);
  return (
    <>
      {before > 0 && <Room height={before} />}
      {shown.map(({ index }) => draw(index))}
      {after > 0 && <Room height={after} />}
    </>
  );
}

const Room = ({ height }: { height: number }) => (
  <tr>
    <td style={{ height }} />
  </tr>
);
