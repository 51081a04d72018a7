import { useMutation, useQueryClient } from "@tanstack/react-query";
import { type ReactNode, useState } from "react";
import { useForm } from "react-hook-form";
import { useNavigate } from "react-router";
import { makeSource, type TriedPage, trySource } from "../../../../core/api/sources.ts";
import { call } from "../../api/client.ts";
import { AskedFromField } from "../../shared/sources/asked-from-field.tsx";
import { Diagnosis } from "../../shared/sources/diagnosis.tsx";
import { TriedTable } from "../../shared/sources/tried-table.tsx";
import { NameStage } from "./name-stage.tsx";
import {
  addressOf,
  credentialsOf,
  type PullFields,
  PullFieldset,
  trustOf,
  defaultPullFields,
} from "../../shared/sources/pull-fields.tsx";
import { Stage } from "../../shared/sources/stage.tsx";

/** Connecting what serves a page of counters: the address, a try, a name. */
export function PullForm(): ReactNode {
  const navigate = useNavigate();
  const queries = useQueryClient();
  const form = useForm<PullFields>({ defaultValues: defaultPullFields });
  const [name, setName] = useState("");
  const [seconds, setSeconds] = useState(15);
  const [askedFrom, setAskedFrom] = useState<number | null>(null);
  const tryIt = useMutation({
    mutationFn: (fields: PullFields) =>
      call(
        trySource,
        {},
        {
          address: addressOf(fields),
          trust: trustOf(fields),
          credentials: credentialsOf(fields) ?? { kind: "none" },
          machine: "machine",
          askedFrom,
        },
      ),
    onSuccess: (answer, fields) => {
      if (answer.kind === "page") setName((before) => before || fields.host.trim());
    },
  });
  const save = useMutation({
    mutationFn: () => {
      const fields = form.getValues();
      return call(
        makeSource,
        {},
        {
          kind: "pull",
          name: name.trim(),
          machine: name.trim(),
          intervalMs: seconds * 1000,
          askedFrom,
          address: addressOf(fields),
          trust: trustOf(fields),
          credentials: credentialsOf(fields) ?? { kind: "none" },
        },
      );
    },
    onSuccess: async (source) => {
      await queries.invalidateQueries({ queryKey: ["sources"] });
      await navigate(`/sources/${source.id}`);
    },
  });
  const pin = (sha256: string) => {
    form.setValue("trust", "fingerprint");
    form.setValue("sha256", sha256);
    void form.handleSubmit((fields) => tryIt.mutate(fields))();
  };
  const page: TriedPage | undefined = tryIt.data?.kind === "page" ? tryIt.data : undefined;
  return (
    <>
      <form aria-label="The address" className="py-4" onSubmit={form.handleSubmit((fields) => tryIt.mutate(fields))}>
        <Stage n={2} words="Where is its page of counters?" />
        <AskedFromField from={askedFrom} onChange={setAskedFrom} />
        <PullFieldset form={form} />
        <button type="submit" className="act mt-4" disabled={tryIt.isPending}>
          {tryIt.isPending ? "asking …" : "Try it"}
        </button>
        {tryIt.error && (
          <p role="alert" className="py-2 text-urgent">
            {tryIt.error.message}
          </p>
        )}
      </form>
      {tryIt.data?.kind === "failed" && (
        <Diagnosis failure={tryIt.data.failure} onPin={tryIt.data.failure.certificate ? pin : undefined} />
      )}
      {page && (
        <form
          aria-label="Its name"
          className="py-4"
          onSubmit={(event) => {
            event.preventDefault();
            save.mutate();
          }}
        >
          <Stage n={3} words="This is what it gives" />
          <TriedTable tried={page} />
          <NameStage
            name={name}
            onName={setName}
            seconds={seconds}
            onSeconds={setSeconds}
            series={page.taken}
            tookMs={page.tookMs}
            save={save}
          />
        </form>
      )}
    </>
  );
}
