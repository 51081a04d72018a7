import { useMutation, useQueryClient } from "@tanstack/react-query";
import { type ReactNode, useState } from "react";
import { type MachineView, nameMachine } from "../../../../core/api/machines.ts";
import { call } from "../../api/client.ts";
import { TagsField } from "../../shared/sources/tags-field.tsx";

/** What people call a machine, and its tags: they hold for all its series, past ones as well. */
export function MachineNameForm({ machine, onClose }: { machine: MachineView; onClose: () => void }): ReactNode {
  const queries = useQueryClient();
  const [friendlyName, setFriendlyName] = useState(machine.friendlyName);
  const [tags, setTags] = useState(machine.tags);
  const save = useMutation({
    mutationFn: () => call(nameMachine, { name: machine.name }, { friendlyName, tags }),
    onSuccess: async () => {
      await queries.invalidateQueries({ queryKey: ["machines"] });
      onClose();
    },
  });
  return (
    <form
      aria-label="Name and tags"
      className="flex flex-col gap-3 border-b border-hairline py-3"
      onSubmit={(event) => {
        event.preventDefault();
        save.mutate();
      }}
    >
      <label>
        people call it{" "}
        <input
          name="friendlyName"
          maxLength={100}
          value={friendlyName}
          onChange={(event) => setFriendlyName(event.target.value)}
          placeholder={machine.name}
          className="ml-1 w-64"
        />
      </label>
      <TagsField tags={tags} onChange={setTags} words="and it has these tags" />
      <p className="flex gap-3">
        <button type="submit" className="act" disabled={save.isPending}>
          {save.isPending ? "saving …" : "Keep it so"}
        </button>
        <button type="button" className="act-plain" onClick={onClose}>
          Leave it as it was
        </button>
      </p>
      {save.error && (
        <p role="alert" className="text-urgent">
          {save.error.message}
        </p>
      )}
    </form>
  );
}
