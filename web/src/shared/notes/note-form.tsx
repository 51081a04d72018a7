import { noteEvent } from "../../../../core/api/events.ts";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { type ReactNode, useState } from "react";
import { call } from "../../api/client.ts";
import { fromLocalInput, localInput } from "../../time/moments.ts";
import type { Span } from "../../time/time-window.ts";

/** A note at a moment or over a span: everybody sees it as an event. */
export function NoteForm({ span, machine, onClose }: { span: Span; machine: string; onClose: () => void }): ReactNode {
  const queries = useQueryClient();
  const [from, setFrom] = useState(localInput(span.fromMs));
  const [to, setTo] = useState(localInput(span.toMs));
  const [text, setText] = useState("");
  const save = useMutation({
    mutationFn: () => {
      const fromMs = fromLocalInput(from);
      return call(noteEvent, {}, { fromMs, toMs: Math.max(fromMs, fromLocalInput(to)), kind: "note", machine, text });
    },
    onSuccess: async () => {
      await queries.invalidateQueries({ queryKey: ["events"] });
      onClose();
    },
  });
  return (
    <form
      aria-label="A note"
      className="my-2 flex flex-wrap items-end gap-x-4 gap-y-2 border-l-2 border-act py-1 pl-4 text-[13.5px]"
      onSubmit={(event) => {
        event.preventDefault();
        save.mutate();
      }}
      onKeyDown={(event) => event.key === "Escape" && onClose()}
    >
      <label className="min-w-64 grow">
        <span className="block text-quiet">What happened{machine ? ` to ${machine}` : ""}</span>
        <input
          // biome-ignore lint/a11y/noAutofocus: the form has just been asked for
          autoFocus
          required
          name="text"
          maxLength={2000}
          value={text}
          onChange={(event) => setText(event.target.value)}
          className="w-full"
        />
      </label>
      <label>
        <span className="block text-quiet">from</span>
        <input
          type="datetime-local"
          step="1"
          required
          name="fromMs"
          value={from}
          onChange={(event) => setFrom(event.target.value)}
          className="figure"
        />
      </label>
      <label>
        <span className="block text-quiet">to</span>
        <input
          type="datetime-local"
          step="1"
          required
          name="toMs"
          value={to}
          min={from}
          onChange={(event) => setTo(event.target.value)}
          className="figure"
        />
      </label>
      <span className="flex gap-3">
        <button type="submit" className="act" disabled={save.isPending}>
          {save.isPending ? "saving …" : "Note it"}
        </button>
        <button type="button" className="act-plain" onClick={onClose}>
          Leave it
        </button>
      </span>
      {save.error && (
        <p role="alert" className="w-full text-urgent">
          {save.error.message}
        </p>
      )}
    </form>
  );
}
