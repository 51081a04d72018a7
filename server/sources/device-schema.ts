import Joi from "joi";
import { snmpModuleNames } from "../../core/formats/snmp/snmp-modules.ts";
import type { DeviceField } from "../../core/sources/kinds/device-field.ts";
import { type Device, deviceKindNames, fieldsOf } from "../../core/sources/kinds/device-kinds.ts";
import type { SnmpDevice } from "../../core/sources/kinds/snmp.ts";

const oid = Joi.string()
  .max(300)
  .pattern(/^1(\.\d{1,10})+$/)
  .messages({
    "string.pattern.base":
      "{{#label}} is not a number of SNMP: figures between points, beginning with 1., for example 1.3.6.1.2.1.1.3.0",
  });
const tagName = /^[a-zA-Z_][a-zA-Z0-9_.-]{0,99}$/;

const pickedNumber = Joi.object({
  oid: oid.required(),
  counter: Joi.string().trim().min(1).max(300).required(),
  tags: Joi.object().pattern(tagName, Joi.string().max(500)).max(20).default({}),
  kind: Joi.valid("by type", "total", "level").default("by type"),
  text: Joi.alternatives()
    .conditional(Joi.object({ as: "number" }).unknown(), { then: Joi.object({ as: Joi.string() }) })
    .conditional(Joi.object({ as: "state" }).unknown(), {
      then: Joi.object({
        as: Joi.string(),
        values: Joi.object().pattern(Joi.string().max(200), Joi.number()).min(1).max(100).required(),
      }),
      otherwise: Joi.forbidden(),
    }),
  factor: Joi.number().default(1).invalid(0),
  unit: Joi.string().trim().max(50).default("1"),
});

const containerRule = Joi.object({
  do: Joi.valid("take", "leave").required(),
  by: Joi.valid("name", "image", "label").required(),
  like: Joi.string().trim().min(1).max(300).required(),
});

const wait = (timeoutMs: number) => Joi.number().integer().min(100).max(60_000).default(timeoutMs);

/** What a kind of device has beyond the fields of its form. */
const further: { readonly [K in Device["kind"]]?: Joi.PartialSchemaMap } = {
  snmp: {
    modules: Joi.array()
      .items(Joi.valid(...snmpModuleNames))
      .unique()
      .default(snmpModuleNames),
    numbers: Joi.array().items(pickedNumber).max(2000).default([]),
  },
  containers: { timeoutMs: wait(5000), rules: Joi.array().items(containerRule).max(100).default([]) },
};

function schemaOfField(field: DeviceField): Joi.Schema {
  switch (field.holds) {
    case "host":
      return Joi.string()
        .max(253)
        .pattern(/^[a-zA-Z0-9][a-zA-Z0-9._:-]*$/)
        .required()
        .messages({
          "string.pattern.base":
            "{{#label}} must be a name or an address in numbers, without https:// and without a path",
        });
    case "address": {
      const address = Joi.string().ip({ cidr: "forbidden" }).default(field.absent);
      return field.mayBeEmpty ? address.allow("") : address;
    }
    case "port":
      return Joi.number().integer().min(1).max(65_535).default(field.absent);
    case "wait":
      return wait(field.absent);
    case "text": {
      const text = Joi.string()
        .max(field.most)
        .pattern(field.pattern)
        .messages({ "string.pattern.base": `{{#label}} is ${field.madeOf}` });
      return field.absent === undefined ? text.required() : text.allow("").default(field.absent);
    }
    case "texts":
      return Joi.array().items(Joi.string().trim().min(1).max(field.each)).max(field.most).default([]);
    case "choice": {
      const choice = Joi.valid(...field.of.map(({ value }) => value));
      return field.leftOut ? choice : choice.default(field.absent);
    }
    case "yes or no":
      return Joi.boolean().default(field.absent);
  }
}

function schemaOfKind(kind: Device["kind"]): Joi.ObjectSchema {
  return Joi.object({
    kind: Joi.valid(kind).required(),
    ...Object.fromEntries(fieldsOf(kind).map((field) => [field.name, schemaOfField(field)])),
    ...further[kind],
  });
}

export const snmpDeviceSchema: Joi.ObjectSchema<SnmpDevice> = schemaOfKind("snmp");

/** The settings of a device, by its kind. */
export const deviceSchema = deviceKindNames.reduce(
  (schema, kind, i) =>
    schema.conditional(Joi.object({ kind }).unknown(), {
      then: kind === "snmp" ? snmpDeviceSchema : schemaOfKind(kind),
      ...(i === deviceKindNames.length - 1 && {
        otherwise: Joi.forbidden().messages({
          "any.unknown": `{{#label}} is none of: ${deviceKindNames.join(", ")}`,
        }),
      }),
    }),
  Joi.alternatives<Device>(),
);
