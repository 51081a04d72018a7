import { NumberField } from "../../ui/number-field.tsx";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { type ReactNode, useState } from "react";
import { useForm } from "react-hook-form";
import { changeSource, type SourceView, trySource } from "../../../../core/api/sources.ts";
import type { Tags } from "../../../../core/counters/counter.ts";
import { call } from "../../api/client.ts";
import { IntervalField, intervals, sendingIntervals } from "../../shared/sources/interval-field.tsx";
import {
  addressOf,
  credentialsOf,
  type PullFields,
  PullFieldset,
  trustOf,
  defaultPullFields,
} from "../../shared/sources/pull-fields.tsx";
import {
  type DeviceFields,
  deviceCredentialsOf,
  deviceFieldsOf,
  deviceOf,
  deviceTrustOf,
} from "../../shared/sources/device-fields.ts";
import { DeviceFieldset } from "../../shared/sources/device-fieldset.tsx";
import { sends } from "../../../../core/sources/kinds/source-kinds.ts";
import { problemWords } from "../../shared/sources/problem-words.ts";
import { PickedNumbers } from "../../shared/sources/picked-numbers.tsx";
import { ContainerRulesForm } from "./container-rules-form.tsx";
import { ModulesField } from "./modules-field.tsx";
import { AskedFromField } from "../../shared/sources/asked-from-field.tsx";
import { Diagnosis } from "../../shared/sources/diagnosis.tsx";
import { settingsOf } from "./settings-of.ts";
import { TagsField } from "../../shared/sources/tags-field.tsx";

/** Everything else about a source. What is asked can be tried before it is kept. */
// biome-ignore lint/complexity/noExcessiveLinesPerFunction: one form
export function SourceSettingsForm({ source }: { source: SourceView }): ReactNode {
  const queries = useQueryClient();
  const [name, setName] = useState(source.name);
  const [machine, setMachine] = useState(source.machine);
  const [seconds, setSeconds] = useState(source.intervalMs / 1000);
  const [tells, setTells] = useState(source.tellsSilence);
  const [late, setLate] = useState(
    source.lateMs === null || source.lateMs === undefined ? undefined : source.lateMs / 1000,
  );
  const [backDays, setBackDays] = useState(source.backDays ?? 1);
  const [askedFrom, setAskedFrom] = useState(source.askedFrom ?? null);
  const isSender = sends(source);
  const [tags, setTags] = useState<Tags>(source.tags);
  const form = useForm<PullFields>({ defaultValues: pullFieldsOf(source) });
  const deviceForm = useForm<DeviceFields>({
    defaultValues: deviceFieldsOf(
      source.device?.kind ?? "snmp",
      source.device ?? undefined,
      source.trust,
      source.credentials !== "none",
    ),
  });
  const [device, setDevice] = useState(source.device);
  const fixed = source.kind === "this-machine";
  const wish = () => {
    const fields = form.getValues();
    const pull = source.address && {
      address: addressOf(fields),
      trust: trustOf(fields),
      credentials: credentialsOf(fields),
    };
    const asked = deviceForm.getValues();
    const ofDevice = device && {
      device: deviceOf(device.kind, asked, device),
      trust: deviceTrustOf(asked),
      credentials: deviceCredentialsOf(device.kind, asked),
    };
    return {
      ...settingsOf(source),
      name,
      machine,
      intervalMs: Math.round(seconds * 1000),
      tellsSilence: tells,
      lateMs: late === undefined ? null : Math.round(late * 1000),
      backDays,
      askedFrom,
      tags,
      ...pull,
      ...ofDevice,
    };
  };
  const save = useMutation({
    mutationFn: () => call(changeSource, { id: source.id }, wish()),
    onSuccess: () => queries.invalidateQueries({ queryKey: ["sources"] }),
  });
  const tryIt = useMutation({
    mutationFn: () => {
      const { address, device: wished, trust, ...rest } = wish();
      return call(
        trySource,
        {},
        {
          id: source.id,
          address,
          device: wished,
          trust,
          machine,
          askedFrom,
          tags,
          take: source.take,
          ...("credentials" in rest && rest.credentials && { credentials: rest.credentials }),
        },
      );
    },
  });
  return (
    <form
      aria-label="Settings"
      className="flex flex-col gap-3 border-t border-hairline py-4"
      onSubmit={(event) => {
        event.preventDefault();
        save.mutate();
      }}
    >
      <h2 className="font-bold">Settings</h2>
      <p className="flex flex-wrap items-center gap-3">
        <label>
          called{" "}
          <input
            required
            name="name"
            maxLength={100}
            value={name}
            onChange={(event) => setName(event.target.value)}
            className="ml-1 w-52"
          />
        </label>
        {!fixed && (
          <label>
            reporting about{" "}
            <input
              required
              name="machine"
              maxLength={200}
              value={machine}
              onChange={(event) => setMachine(event.target.value)}
              className="ml-1 w-52"
            />
          </label>
        )}
      </p>
      {!fixed && (
        <p>
          <IntervalField
            seconds={seconds}
            onChange={setSeconds}
            series={source.taken ?? undefined}
            tookMs={source.tookMs ?? undefined}
            of={isSender ? sendingIntervals : intervals}
          />
        </p>
      )}
      {(source.address || device) && <AskedFromField from={askedFrom} onChange={setAskedFrom} />}
      {source.address && <PullFieldset form={form} hasSecret={source.credentials !== "none"} />}
      {device && <DeviceFieldset kind={device.kind} form={deviceForm} hasSecret={source.credentials !== "none"} />}
      {device?.kind === "snmp" && (
        <ModulesField modules={device.modules} onChange={(modules) => setDevice({ ...device, modules })} />
      )}
      {device?.kind === "snmp" && (
        <PickedNumbers
          numbers={device.numbers}
          onChange={(numbers) => setDevice({ ...device, numbers })}
          heldBy={() => null}
        />
      )}
      {device?.kind === "containers" && (
        <ContainerRulesForm rules={device.rules} onChange={(rules) => setDevice({ ...device, rules })} />
      )}
      <TagsField tags={tags} onChange={setTags} words="with these tags on every value" />
      {!fixed && <LatePart late={late} measuredMs={source.measuredLateMs} onChange={setLate} />}
      {isSender && <BackPart days={backDays} onChange={setBackDays} />}
      <label className="flex items-center gap-2">
        <input
          type="checkbox"
          checked={tells}
          onChange={(event) => setTells(event.target.checked)}
          className="accent-act"
        />{" "}
        tell me when it is silent for three intervals
      </label>
      <p className="flex gap-3">
        <button type="submit" className="act" disabled={save.isPending}>
          {save.isPending ? "saving …" : "Keep these settings"}
        </button>
        {(source.address || source.device) && (
          <button type="button" className="act-plain" disabled={tryIt.isPending} onClick={() => tryIt.mutate()}>
            {tryIt.isPending ? "asking …" : "Try them first"}
          </button>
        )}
        {save.isSuccess && <span className="self-center text-quiet">kept</span>}
      </p>
      {save.error && (
        <p role="alert" className="text-urgent">
          {problemWords(save.error)}
        </p>
      )}
      {tryIt.error && (
        <p role="alert" className="text-urgent">
          {tryIt.error.message}
        </p>
      )}
      {tryIt.data?.kind === "failed" && (
        <Diagnosis
          failure={tryIt.data.failure}
          onPin={
            tryIt.data.failure.certificate
              ? (sha256) => {
                  for (const one of [form, deviceForm] as const) {
                    (one as typeof form).setValue("trust", "fingerprint");
                    (one as typeof form).setValue("sha256", sha256);
                  }
                }
              : undefined
          }
        />
      )}
      {tryIt.data?.kind === "page" && (
        <p>
          It answers: found <span className="figure">{tryIt.data.found}</span>, would take{" "}
          <span className="figure">{tryIt.data.taken}</span>.
        </p>
      )}
    </form>
  );
}

/** How late samples may come, in seconds as they are typed. */
function LatePart({
  late,
  measuredMs,
  onChange,
}: {
  late: number | undefined;
  measuredMs: number;
  onChange: (late: number | undefined) => void;
}): ReactNode {
  return (
    <p>
      its samples may come{" "}
      <NumberField
        label="seconds its samples may come late"
        name="lateMs"
        least={0}
        most={86_400}
        fractions
        value={late}
        usual={(measuredMs / 1000).toFixed(0)}
        className="mx-1 w-20"
        onChange={onChange}
      />{" "}
      s late, and rules wait so long for them <span className="text-quiet">(empty: as measured)</span>
    </p>
  );
}

/** How far back what sends may write. */
function BackPart({ days, onChange }: { days: number; onChange: (days: number) => void }): ReactNode {
  return (
    <p>
      it may write{" "}
      <NumberField
        label="days back that it may write"
        name="backDays"
        required
        least={1}
        most={3650}
        value={days}
        usual="1"
        className="mx-1 w-20"
        onChange={(next) => next !== undefined && onChange(next)}
      />{" "}
      {days === 1 ? "day" : "days"} back
    </p>
  );
}

function pullFieldsOf({ address, trust, credentials }: SourceView): PullFields {
  return {
    ...defaultPullFields,
    ...(address && {
      scheme: address.scheme,
      host: address.host,
      port: address.port,
      path: address.path,
      timeoutSeconds: address.timeoutMs / 1000,
    }),
    trust: trust.kind,
    ...(trust.kind === "fingerprint" && { sha256: trust.sha256 }),
    ...(trust.kind === "issuer" && { pem: trust.pem }),
    credentials: credentials === "none" ? "none" : "keep",
  };
}
