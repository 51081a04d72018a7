import { useMutation, useQueryClient } from "@tanstack/react-query";
import { type ReactNode, useState } from "react";
import { useNavigate } from "react-router";
import { bringMachineBack, type MachineView, removeMachine } from "../../../../core/api/machines.ts";
import { call } from "../../api/client.ts";
import { useToasts } from "../../shared/toasts.ts";

/** Takes a machine off the lists, with what gathers it; for a minute it can be put back. */
export function MachineRemoval({ machine }: { machine: MachineView }): ReactNode {
  const queries = useQueryClient();
  const navigate = useNavigate();
  const tell = useToasts();
  const [asked, setAsked] = useState(false);
  const refresh = () =>
    Promise.all(["machines", "sources"].map((key) => queries.invalidateQueries({ queryKey: [key] })));
  const remove = useMutation({
    mutationFn: () => call(removeMachine, { name: machine.name }),
    onSuccess: async ({ sources }) => {
      tell({
        text: `${machine.name} was removed. What was gathered stays.`,
        action: {
          words: "Undo",
          run: () => void call(bringMachineBack, { name: machine.name }, { sources }).then(refresh),
        },
        forMs: 60_000,
      });
      await navigate("/");
      await refresh();
    },
  });
  if (machine.sources.some(({ kind }) => kind === "this-machine")) return null;
  const its = machine.sources.map(({ name }) => name).join(", ");
  return (
    <span className="not-in-print text-[13px]">
      {" · "}
      {asked ? (
        <>
          <button type="button" className="word-link" disabled={remove.isPending} onClick={() => remove.mutate()}>
            Remove {machine.name}
            {its !== "" && `, and ask ${its} no more`}
          </button>
          {" · "}
          <button type="button" className="word-link" onClick={() => setAsked(false)}>
            keep it
          </button>
        </>
      ) : (
        <button type="button" className="word-link" onClick={() => setAsked(true)}>
          remove …
        </button>
      )}
      {remove.error && (
        <span role="alert" className="text-urgent">
          {" "}
          {remove.error.message}
        </span>
      )}
    </span>
  );
}
