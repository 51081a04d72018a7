import { describe, expect, test } from "vitest";
import { type Device, deviceKindNames, deviceKinds, fieldsOf, kindOf } from "../../core/sources/kinds/device-kinds.ts";
import { deviceSchema } from "./device-schema.ts";

const taken = (device: object) => deviceSchema.validate(device, { abortEarly: false });
const words = (device: object) => taken(device).error?.message;

describe.each(deviceKindNames)("a device of the kind %s", (kind) => {
  const whole = { ...deviceKinds[kind].fresh, ...("host" in deviceKinds[kind].fresh && { host: "192.0.2.7" }) };

  test("is taken as its form begins, once it is said where it is", () => {
    expect(words(whole)).toBeUndefined();
    expect(taken(whole).value).toEqual(whole);
  });
  test("is taken where only what must be said is, with its usual settings", () => {
    const must = fieldsOf(kind).filter(
      (field) => field.holds === "host" || (field.holds === "text" && !("absent" in field)),
    );
    const least = { kind, ...Object.fromEntries(must.map(({ name }) => [name, (whole as never)[name]])) };
    const { error, value } = taken(least);
    expect(error).toBeUndefined();
    for (const field of fieldsOf(kind))
      if (field.holds === "port" || field.holds === "wait") expect(value[field.name], field.name).toBe(field.absent);
  });
  test("says which field is wrong, of each of its fields", () => {
    for (const { name } of fieldsOf(kind)) expect(words({ ...whole, [name]: { odd: 1 } }), name).toContain(name);
    expect(words({ ...whole, glow: 1 })).toContain("glow");
  });
  test("has a place to be said, and a way to connect it", () => {
    expect(kindOf(whole as Device).text(whole as Device)).not.toContain("undefined");
    expect(deviceKinds[kind].ways.length).toBeGreaterThan(0);
  });
});

test.each([
  [{ kind: "toaster" }, `is none of: ${deviceKindNames.join(", ")}`],
  [{ kind: "redfish", host: "https://bmc.quay" }, /without https/],
  [{ kind: "ipmi" }, /"host" is required/],
  [{ kind: "ups", host: "vault", ups: "a b" }, /letters, figures, \. _ -/],
  [{ kind: "flow", from: "anybody" }, /"from" must be a valid ip/],
  [{ kind: "containers", socket: "run/engine" }, /begins with \//],
])("%j is refused in words", (device, said) => {
  expect(words(device)).toMatch(said);
});
