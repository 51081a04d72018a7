import { noteEvent, removeEvent } from "../../../../core/api/events.ts";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { Popover } from "radix-ui";
import { type ReactNode, useState } from "react";
import type { MachineEvent } from "../../../../core/events/machine-event.ts";
import { call } from "../../api/client.ts";
import { useMay } from "../people/use-may.ts";
import { useToasts } from "../toasts.ts";
import { momentText } from "../../time/moments.ts";

/** The mark of notes on a chart: it opens what was noted, by whom, and lets it be taken away. */
export function NotePopover({
  notes,
  nowMs,
  words,
}: {
  notes: readonly MachineEvent[];
  nowMs: number;
  words: string;
}): ReactNode {
  const queries = useQueryClient();
  const toast = useToasts();
  const may = useMay();
  const [open, setOpen] = useState(false);
  const refresh = () => queries.invalidateQueries({ queryKey: ["events"] });
  const remove = useMutation({
    mutationFn: ({ id }: MachineEvent) => call(removeEvent, { id }),
    onSuccess: async ({ id: _, ...note }) => {
      setOpen(false);
      toast({
        text: `The note "${note.text}" was taken away.`,
        action: { words: "Put it back", run: () => void call(noteEvent, {}, note).then(refresh) },
        forMs: 15_000,
      });
      await refresh();
    },
  });
  return (
    <Popover.Root open={open} onOpenChange={setOpen}>
      <Popover.Trigger
        aria-label={words}
        className="pointer-events-auto absolute -top-[3px] -left-[7px] size-3.5"
        onPointerDown={(event) => event.stopPropagation()}
      >
        <svg aria-hidden="true" width="14" height="14" viewBox="0 0 14 14">
          <circle cx="7" cy="6" r="3.2" fill="var(--act)" />
        </svg>
      </Popover.Trigger>
      <Popover.Portal>
        {/* React passes events on to the chart, where a pointer that goes down begins a brush. */}
        <Popover.Content
          onPointerDown={(event) => event.stopPropagation()}
          side="top"
          sideOffset={6}
          collisionPadding={8}
          aria-label="Notes"
          className="z-40 w-72 border border-hairline bg-paper p-3 text-[13.5px]"
        >
          {notes.map((note) => (
            <p key={note.id} className="mb-2 last:mb-0">
              <span className="moment text-quiet">{momentText(note.fromMs, nowMs)}</span> {note.text}
              {note.tags["by"] && <span className="text-quiet"> · {note.tags["by"]}</span>}
              <button
                hidden={!may(removeEvent)}
                type="button"
                className="word-link ml-2"
                disabled={remove.isPending}
                onClick={() => remove.mutate(note)}
              >
                take it away
              </button>
            </p>
          ))}
          {remove.error && (
            <p role="alert" className="text-urgent">
              {remove.error.message}
            </p>
          )}
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}
