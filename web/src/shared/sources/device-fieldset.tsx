import { Fragment, type ReactNode } from "react";
import type { UseFormReturn } from "react-hook-form";
import type { DeviceField, FormLine } from "../../../../core/sources/kinds/device-field.ts";
import { type Device, deviceKinds } from "../../../../core/sources/kinds/device-kinds.ts";
import { CredentialsFieldset } from "./credentials-fieldset.tsx";
import { type DeviceFields, showsCertificate } from "./device-fields.ts";
import { TrustFieldset } from "./trust-fieldset.tsx";

type Form = UseFormReturn<DeviceFields>;

/** Where the device is, and who we say we are. */
export function DeviceFieldset({
  kind,
  form,
  hasSecret = false,
}: {
  kind: Device["kind"];
  form: Form;
  hasSecret?: boolean;
}): ReactNode {
  const { lines, credentials } = deviceKinds[kind];
  const fields = form.watch();
  return (
    <div className="flex flex-col gap-3">
      {lines.map((line, i) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: a kind's lines stay as they are
        <Line key={i} line={line} form={form} />
      ))}
      {credentials !== "none" && <CredentialsFieldset by={credentials} form={form} hasSecret={hasSecret} />}
      {showsCertificate(kind, fields) && <TrustFieldset register={form.register} trust={fields.trust} />}
    </div>
  );
}

function Line({ line, form }: { line: FormLine; form: Form }): ReactNode {
  const [first] = line;
  if (line.length === 1 && typeof first === "object") {
    if ("hint" in first) return <p className="max-w-prose text-quiet">{first.hint}</p>;
    if (first.holds === "yes or no")
      return (
        <label className="flex items-center gap-2">
          <input type="checkbox" className="accent-act" {...form.register(`device.${first.name}`)} /> {first.label}
        </label>
      );
  }
  return (
    <p className="flex flex-wrap items-center gap-1.5">
      {line.map((part, i) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: a kind's lines stay as they are
        <Fragment key={i}>
          {typeof part === "string" ? (
            part
          ) : "hint" in part ? (
            <span className="text-quiet">{part.hint}</span>
          ) : (
            <Field field={part} form={form} />
          )}
        </Fragment>
      ))}
    </p>
  );
}

/** How wide the box of a field is where its kind says nothing, in letters of half an em. */
const letters = { host: 28, address: 20, text: 28, texts: 32 } as const;

function Field({ field, form }: { field: DeviceField; form: Form }): ReactNode {
  const name = `device.${field.name}` as const;
  const common = { "aria-label": field.label, autoComplete: "off" };
  switch (field.holds) {
    case "port":
      return (
        <input
          type="number"
          {...common}
          min="1"
          max="65535"
          className="figure w-24 text-right"
          {...form.register(name, { valueAsNumber: true, required: true })}
        />
      );
    case "wait":
      return (
        <input
          type="number"
          {...common}
          min="0.1"
          max="60"
          step="any"
          className="figure w-20 text-right"
          {...form.register(name, { valueAsNumber: true, required: true })}
        />
      );
    case "yes or no":
      return <input type="checkbox" {...common} className="accent-act" {...form.register(name)} />;
    case "choice": {
      const warning = field.of.find(({ value }) => value === form.watch(name))?.warning;
      return (
        <>
          <select aria-label={field.label} {...form.register(name)}>
            {field.of.map(({ value, words }) => (
              <option key={value} value={value}>
                {words}
              </option>
            ))}
          </select>
          {warning && <span className="text-notice">{warning}</span>}
        </>
      );
    }
    default:
      return (
        <input
          {...common}
          placeholder={"example" in field ? field.example : undefined}
          style={{ width: `${(field.letters ?? letters[field.holds]) / 2}rem` }}
          {...form.register(name, { required: mustBeSaid(field) })}
        />
      );
  }
}

/** Whether a text field must not stay empty. */
function mustBeSaid(field: DeviceField): boolean {
  return (
    field.holds === "host" ||
    (field.holds === "address" && !field.mayBeEmpty) ||
    (field.holds === "text" && field.absent === undefined)
  );
}
