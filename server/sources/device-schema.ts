import Joi from "joi";
import { snmpModuleNames } from "../../core/formats/snmp/snmp-modules.ts";
import type { Device, SnmpDevice } from "../../core/sources/device.ts";

const host = Joi.string()
  .max(253)
  .pattern(/^[a-zA-Z0-9][a-zA-Z0-9._:-]*$/)
  .messages({
    "string.pattern.base": "{{#label}} is a name or an address in numbers, without https:// and without a path",
  });
const place = (port: number, timeoutMs: number) => ({
  host: host.required(),
  port: Joi.number().integer().min(1).max(65_535).default(port),
  timeoutMs: Joi.number().integer().min(100).max(60_000).default(timeoutMs),
});
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

export const snmpDeviceSchema = Joi.object<SnmpDevice>({
  kind: Joi.valid("snmp").required(),
  ...place(161, 5000),
  version: Joi.valid("1", "2c", "3").default("2c"),
  transport: Joi.valid("udp", "tcp"),
  modules: Joi.array()
    .items(Joi.valid(...snmpModuleNames))
    .unique()
    .default(snmpModuleNames),
  numbers: Joi.array().items(pickedNumber).max(2000).default([]),
});

const containerRule = Joi.object({
  do: Joi.valid("take", "leave").required(),
  by: Joi.valid("name", "image", "label").required(),
  like: Joi.string().trim().min(1).max(300).required(),
});

/** The settings of a device, by its kind. */
export const deviceSchema = Joi.alternatives<Device>()
  .conditional(Joi.object({ kind: "snmp" }).unknown(), { then: snmpDeviceSchema })
  .conditional(Joi.object({ kind: "redfish" }).unknown(), {
    then: Joi.object({ kind: Joi.string(), scheme: Joi.valid("http", "https"), ...place(443, 15_000) }),
  })
  .conditional(Joi.object({ kind: "ipmi" }).unknown(), {
    then: Joi.object({ kind: Joi.string(), ...place(623, 10_000) }),
  })
  .conditional(Joi.object({ kind: "ups" }).unknown(), {
    then: Joi.object({
      kind: Joi.string(),
      ...place(3493, 5000),
      ups: Joi.string()
        .max(100)
        .pattern(/^[a-zA-Z0-9_][a-zA-Z0-9._-]*$/)
        .required()
        .messages({ "string.pattern.base": "{{#label}} is the supply's name there: letters, figures, . _ -" }),
    }),
  })
  .conditional(Joi.object({ kind: "flow" }).unknown(), {
    then: Joi.object({
      kind: Joi.string(),
      host: Joi.string().ip({ cidr: "forbidden" }).default("0.0.0.0"),
      port: Joi.number().integer().min(1).max(65_535).default(4739),
      from: Joi.string().ip({ cidr: "forbidden" }).allow("").default(""),
      timeoutMs: Joi.number().integer().min(100).max(60_000).default(10_000),
    }),
  })
  .conditional(Joi.object({ kind: "containers" }).unknown(), {
    then: Joi.object({
      kind: Joi.string(),
      socket: Joi.string()
        .max(300)
        .allow("")
        .pattern(/^\//)
        .default("")
        .messages({ "string.pattern.base": "{{#label}} is a path that begins with /" }),
      timeoutMs: Joi.number().integer().min(100).max(60_000).default(5000),
      rules: Joi.array().items(containerRule).max(100).default([]),
      labels: Joi.array().items(Joi.string().trim().min(1).max(200)).max(20).default([]),
      command: Joi.boolean().default(false),
    }),
    otherwise: Joi.forbidden().messages({
      "any.unknown": "{{#label}} is none of: snmp, redfish, ipmi, ups, flow, containers",
    }),
  });
