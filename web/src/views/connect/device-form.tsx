import { useMutation, useQueryClient } from "@tanstack/react-query";
import { type ReactNode, useState } from "react";
import { useForm } from "react-hook-form";
import { useNavigate } from "react-router";
import {
  makeSource,
  type TryAnswer,
  trySource,
  type WalkAnswer,
  walkSource,
  type WalkView,
} from "../../../../core/api/sources.ts";
import { type Device, deviceKinds, kindOf } from "../../../../core/sources/kinds/device-kinds.ts";
import type { SnmpDevice } from "../../../../core/sources/kinds/snmp.ts";
import { call } from "../../api/client.ts";
import { AskedFromField } from "../../shared/sources/asked-from-field.tsx";
import { Diagnosis } from "../../shared/sources/diagnosis.tsx";
import { TriedTable } from "../../shared/sources/tried-table.tsx";
import {
  type DeviceFields,
  deviceCredentialsOf,
  deviceFieldsOf,
  deviceOf,
  deviceTrustOf,
} from "../../shared/sources/device-fields.ts";
import { DeviceFieldset } from "../../shared/sources/device-fieldset.tsx";
import { NameStage } from "./name-stage.tsx";
import { problemWords } from "../../shared/sources/problem-words.ts";
import { Stage } from "../../shared/sources/stage.tsx";
import { type Picked, rulesOf, WalkPicker } from "./walk-picker.tsx";

const nameOf = (device: Device): string => kindOf(device).name(device);

type Answer = { readonly tried: TryAnswer | WalkAnswer; readonly fields: DeviceFields };

/** Connecting a device that is asked over its own protocol: where it is, what it has, a name. */
export function DeviceForm({ kind }: { kind: Device["kind"] }): ReactNode {
  const navigate = useNavigate();
  const queries = useQueryClient();
  const form = useForm<DeviceFields>({ defaultValues: deviceFieldsOf(kind) });
  const [name, setName] = useState("");
  const [machine, setMachine] = useState("");
  const [seconds, setSeconds] = useState(15);
  const [askedFrom, setAskedFrom] = useState<number | null>(null);
  const [picked, setPicked] = useState<Picked>({ modules: [], left: [], numbers: [] });
  const [walked, setWalked] = useState<WalkView>();
  const tryIt = useMutation({
    mutationFn: async (fields: DeviceFields): Promise<Answer> => {
      const [device, credentials] = [deviceOf(kind, fields), deviceCredentialsOf(kind, fields)];
      return {
        fields,
        tried:
          device.kind === "snmp"
            ? await call(walkSource, {}, { device, credentials, askedFrom })
            : await call(
                trySource,
                {},
                { device, trust: deviceTrustOf(fields), credentials, askedFrom, machine: "machine" },
              ),
      };
    },
    onSuccess: ({ tried, fields }) => {
      setWalked(undefined);
      if (tried.kind === "failed") return;
      const said = tried.kind === "walked" ? tried.walk.name : "";
      setName((before) => before || said || nameOf(deviceOf(kind, fields)));
      if (tried.kind === "walked")
        setPicked({ modules: tried.walk.groups.map(({ module }) => module), left: [], numbers: [] });
    },
  });
  const save = useMutation({
    mutationFn: () => {
      const fields = form.getValues();
      const device = deviceOf(kind, fields);
      return call(
        makeSource,
        {},
        {
          kind,
          name: name.trim(),
          machine: machine.trim() || name.trim(),
          intervalMs: seconds * 1000,
          askedFrom,
          device:
            kind === "snmp" ? ({ ...device, modules: picked.modules, numbers: picked.numbers } as SnmpDevice) : device,
          trust: deviceTrustOf(fields),
          credentials: deviceCredentialsOf(kind, fields),
          take: rulesOf(picked),
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
  const goOn = useMutation({
    mutationFn: async (walk: WalkView): Promise<WalkView> => {
      const fields = (tryIt.data as Answer).fields;
      const device = deviceOf(kind, fields);
      if (device.kind !== "snmp") return walk;
      const more = await call(
        walkSource,
        {},
        { device, credentials: deviceCredentialsOf(kind, fields), askedFrom, after: walk.cut?.after },
      );
      if (more.kind === "failed")
        return {
          ...walk,
          cut: walk.cut && { ...walk.cut, words: `${walk.cut.words} Walking on failed: ${more.failure.words}` },
        };
      return {
        ...walk,
        unknown: [...walk.unknown, ...more.walk.unknown],
        variables: walk.variables + more.walk.variables,
        tookMs: walk.tookMs + more.walk.tookMs,
        cut: more.walk.cut,
      };
    },
    onSuccess: setWalked,
  });
  const tried =
    walked && tryIt.data?.tried.kind === "walked" ? { ...tryIt.data.tried, walk: walked } : tryIt.data?.tried;
  return (
    <>
      <form aria-label="The device" className="py-4" onSubmit={form.handleSubmit((fields) => tryIt.mutate(fields))}>
        <Stage n={2} words={deviceKinds[kind].asks} />
        <AskedFromField from={askedFrom} onChange={setAskedFrom} />
        <DeviceFieldset kind={kind} form={form} />
        <button type="submit" className="act mt-4" disabled={tryIt.isPending}>
          {tryIt.isPending ? (kind === "snmp" ? "walking …" : "asking …") : deviceKinds[kind].act}
        </button>
        {tryIt.error && (
          <p role="alert" className="py-2 text-urgent">
            {problemWords(tryIt.error)}
          </p>
        )}
      </form>
      {tried?.kind === "failed" && (
        <Diagnosis failure={tried.failure} onPin={tried.failure.certificate ? pin : undefined} />
      )}
      {tried && tried.kind !== "failed" && (
        <form
          aria-label="Its name"
          className="py-4"
          onSubmit={(event) => {
            event.preventDefault();
            save.mutate();
          }}
        >
          <Stage n={3} words={tried.kind === "walked" ? "This is what it has: pick" : "This is what it gives"} />
          {tried.kind === "walked" ? (
            <WalkPicker
              walk={tried.walk}
              picked={picked}
              onChange={setPicked}
              further={
                <button
                  type="button"
                  className="word-link"
                  disabled={goOn.isPending}
                  onClick={() => goOn.mutate(tried.walk)}
                >
                  {goOn.isPending ? "walking on …" : "Walk on from there"}
                </button>
              }
            />
          ) : (
            <TriedTable tried={tried} />
          )}
          <NameStage
            name={name}
            onName={setName}
            seconds={seconds}
            onSeconds={setSeconds}
            series={tried.kind === "page" ? tried.taken : undefined}
            tookMs={tried.kind === "page" ? tried.tookMs : undefined}
            save={save}
            disabled={kind === "snmp" && picked.modules.length + picked.numbers.length === 0}
          >
            <label>
              reporting about the machine{" "}
              <input
                maxLength={200}
                value={machine}
                placeholder={name}
                onChange={(event) => setMachine(event.target.value)}
                className="ml-1 w-52"
              />
            </label>
          </NameStage>
        </form>
      )}
    </>
  );
}
