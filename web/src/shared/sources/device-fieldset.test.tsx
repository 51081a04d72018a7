// @vitest-environment jsdom
import { cleanup, render, screen } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import type { ReactNode } from "react";
import { useForm } from "react-hook-form";
import { afterEach, describe, expect, test } from "vitest";
import { type Device, deviceKindNames, fieldsOf } from "../../../../core/sources/kinds/device-kinds.ts";
import { type DeviceFields, deviceCredentialsOf, deviceFieldsOf, deviceOf } from "./device-fields.ts";
import { DeviceFieldset } from "./device-fieldset.tsx";

afterEach(cleanup);

interface FormProps {
  readonly kind: Device["kind"];
  readonly hasSecret: boolean;
  readonly tell: (fields: DeviceFields) => void;
}

function Form({ kind, hasSecret, tell }: FormProps): ReactNode {
  const form = useForm<DeviceFields>({ defaultValues: deviceFieldsOf(kind, undefined, undefined, hasSecret) });
  return (
    <form onSubmit={form.handleSubmit(tell)}>
      <DeviceFieldset kind={kind} form={form} hasSecret={hasSecret} />
      <button type="submit">send</button>
    </form>
  );
}

/** The form of a kind, and what it says once it is sent. */
function shown(kind: Device["kind"], hasSecret = false): { readonly said: () => Promise<DeviceFields> } {
  let fields: DeviceFields | undefined;
  render(<Form kind={kind} hasSecret={hasSecret} tell={(sent) => (fields = sent)} />);
  return {
    said: async () => {
      await userEvent.click(screen.getByRole("button", { name: "send" }));
      if (!fields) throw new Error("the form was not sent");
      return fields;
    },
  };
}
const typed = async (label: string, text: string) => {
  const field = screen.getByLabelText(label);
  await userEvent.clear(field);
  await userEvent.type(field, text);
};

describe.each(deviceKindNames)("the form of the kind %s", (kind) => {
  test("has each of its fields, by its label", () => {
    shown(kind);
    for (const { label } of fieldsOf(kind)) expect(screen.getByLabelText(label)).toBeDefined();
  });
});

test("what is typed is what is said, in its own units", async () => {
  const { said } = shown("ups");
  await typed("name or address", "vault.quay");
  await typed("port", "3499");
  await typed("time-out in seconds", "0.5");
  await typed("the supply's name there", "attic");
  expect(deviceOf("ups", await said())).toEqual({
    kind: "ups",
    host: "vault.quay",
    port: 3499,
    ups: "attic",
    timeoutMs: 500,
  });
});

test("a form without what must be there is not sent", async () => {
  const { said } = shown("ipmi");
  await expect(said()).rejects.toThrow("not sent");
  await typed("name or address", "bmc.quay");
  expect(deviceOf("ipmi", await said())).toMatchObject({ host: "bmc.quay" });
});

test("over http there is a warning, and no certificate to believe", async () => {
  shown("redfish");
  expect(screen.getByLabelText("trust")).toBeDefined();
  await userEvent.selectOptions(screen.getByLabelText("scheme"), "http");
  expect(screen.getByText("everybody on the way reads the password")).toBeDefined();
  expect(screen.queryByLabelText("trust")).toBeNull();
});

test("version 3 of SNMP asks for a user, and for the keys that its level needs (RFC 3414)", async () => {
  const { said } = shown("snmp");
  expect(screen.getByLabelText("community")).toBeDefined();
  await typed("name or address", "gate.quay");
  await userEvent.selectOptions(screen.getByLabelText("version"), "3");
  expect(screen.queryByLabelText("community")).toBeNull();
  expect(screen.getByLabelText("authentication key")).toBeDefined();
  expect(screen.getByLabelText("privacy key")).toBeDefined();
  await userEvent.selectOptions(screen.getByLabelText("level"), "signed");
  expect(screen.queryByLabelText("privacy key")).toBeNull();
  await typed("user", "wren");
  await typed("authentication key", "kestrel-on-the-quay");
  expect(deviceCredentialsOf("snmp", await said())).toMatchObject({
    kind: "snmp user",
    user: "wren",
    level: "signed",
    authKey: "kestrel-on-the-quay",
  });
});

test("a source's own secret stays until somebody says otherwise", async () => {
  const { said } = shown("redfish", true);
  expect(screen.queryByLabelText("password")).toBeNull();
  await typed("name or address", "bmc.quay");
  expect(deviceCredentialsOf("redfish", await said())).toBeUndefined();
  await userEvent.click(screen.getByLabelText("with what was entered before"));
  await typed("user", "wren");
  await typed("password", "s3cret");
  expect(deviceCredentialsOf("redfish", await said())).toEqual({ kind: "basic", user: "wren", password: "s3cret" });
});
