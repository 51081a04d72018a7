import { X509Certificate } from "node:crypto";
import Joi, { type CustomHelpers, type ErrorReport } from "joi";
import { longestQuietMs } from "../../core/quiet/quiet-time.ts";
import type { TableShape } from "../../core/formats/csv/table-shape.ts";
import { timeForms } from "../../core/formats/csv/time-text.ts";
import { deviceSchema, snmpDeviceSchema } from "./device-schema.ts";
import { deviceKindNames } from "../../core/sources/kinds/device-kinds.ts";
import { type SnmpDevice, snmpAuthProtocols, snmpPrivProtocols } from "../../core/sources/kinds/snmp.ts";
import { type SourceKind, sourceKindNames, sourceKinds } from "../../core/sources/kinds/source-kinds.ts";
import type { Credentials, SourceSettings } from "../../core/sources/source.ts";

const tagName = /^[a-zA-Z_][a-zA-Z0-9_.-]{0,99}$/;
const tags = Joi.object()
  .pattern(Joi.string().pattern(tagName), Joi.string().max(500))
  .max(40)
  .messages({ "object.unknown": "{{#label}} is not a tag's name: letters, digits, . _ - and no digit first" });
const which = { counter: Joi.string().max(300).required(), where: tags };

const takeRule = Joi.alternatives()
  .conditional(Joi.object({ do: Joi.valid("take", "leave") }).unknown(), {
    then: Joi.object({ do: Joi.string(), ...which }),
  })
  .conditional(Joi.object({ do: Joi.valid("rename") }).unknown(), {
    then: Joi.object({ do: Joi.string(), ...which, to: Joi.string().max(300).required() }),
  })
  .conditional(Joi.object({ do: Joi.valid("tag") }).unknown(), {
    then: Joi.object({
      do: Joi.string(),
      ...which,
      tag: Joi.string().pattern(tagName).required(),
      value: Joi.string().max(500).required(),
    }),
  })
  .conditional(Joi.object({ do: Joi.valid("rename tag") }).unknown(), {
    then: Joi.object({
      do: Joi.string(),
      ...which,
      tag: Joi.string().max(100).required(),
      to: Joi.string().pattern(tagName).required(),
    }),
  })
  .conditional(Joi.object({ do: Joi.valid("drop tag") }).unknown(), {
    then: Joi.object({ do: Joi.string(), ...which, tag: Joi.string().max(100).required() }),
  })
  .conditional(Joi.object({ do: Joi.valid("scale") }).unknown(), {
    then: Joi.object({
      do: Joi.string(),
      ...which,
      factor: Joi.number().required(),
      unit: Joi.string().max(50).required(),
    }),
    otherwise: Joi.forbidden().messages({
      "any.unknown": "{{#label}} does none of: take, leave, rename, tag, rename tag, drop tag, scale",
    }),
  });

const host = Joi.string()
  .max(253)
  .pattern(/^[a-zA-Z0-9._:-]+$/)
  .messages({
    "string.pattern.base": "{{#label}} must be a name or an address in numbers, without http:// and without a path",
  });

const addressSchema = Joi.object({
  scheme: Joi.valid("http", "https").default("http"),
  host: host.required(),
  port: Joi.number().integer().min(1).max(65_535).required(),
  path: Joi.string()
    .max(2000)
    .pattern(/^\/\S*$/)
    .default("/metrics")
    .messages({ "string.pattern.base": "{{#label}} must begin with / and have no blanks" }),
  timeoutMs: Joi.number().integer().min(100).max(60_000).default(5000),
});

const trustSchema = Joi.alternatives()
  .conditional(Joi.object({ kind: "issuer" }).unknown(), {
    then: Joi.object({ kind: Joi.string(), pem: Joi.string().max(65_536).required().custom(checkedPem) }),
  })
  .conditional(Joi.object({ kind: "fingerprint" }).unknown(), {
    then: Joi.object({
      kind: Joi.string(),
      sha256: Joi.string()
        .pattern(/^([0-9a-fA-F]{2}:?){32}$/)
        .required()
        .messages({
          "string.pattern.base": "{{#label}} is not a SHA-256: 64 hexadecimal digits, with or without colons",
        }),
    }),
    otherwise: Joi.object({ kind: Joi.valid("system", "unchecked").required() }),
  });

const snmpKey = Joi.string().min(8).max(500).messages({ "string.min": "{{#label}} has 8 signs at least (RFC 3414)" });
const snmpUser = Joi.object({
  kind: Joi.string(),
  user: Joi.string().min(1).max(32).required(),
  level: Joi.valid("none", "signed", "sealed").required(),
  authProtocol: Joi.valid(...snmpAuthProtocols).default("sha256"),
  authKey: Joi.when("level", { is: "none", then: Joi.string().allow("").default(""), otherwise: snmpKey.required() }),
  privProtocol: Joi.valid(...snmpPrivProtocols).default("aes"),
  privKey: Joi.when("level", { is: "sealed", then: snmpKey.required(), otherwise: Joi.string().allow("").default("") }),
});

const credentialsSchema = Joi.alternatives()
  .conditional(Joi.object({ kind: "community" }).unknown(), {
    then: Joi.object({ kind: Joi.string(), community: Joi.string().max(255).required() }),
  })
  .conditional(Joi.object({ kind: "snmp user" }).unknown(), { then: snmpUser })
  .conditional(Joi.object({ kind: "basic" }).unknown(), {
    then: Joi.object({
      kind: Joi.string(),
      user: Joi.string().max(500).allow("").required(),
      password: Joi.string().max(2000).allow("").required(),
    }),
  })
  .conditional(Joi.object({ kind: "bearer" }).unknown(), {
    then: Joi.object({ kind: Joi.string(), token: Joi.string().max(8000).required() }),
    otherwise: Joi.object({ kind: Joi.valid("none").required() }),
  });

export interface SourceRequest extends SourceSettings {
  readonly kind: SourceKind;
  /** Absent where they stay as they are. */
  readonly credentials?: Credentials;
}

const tableShapeSchema = Joi.object<TableShape>({
  layout: Joi.valid("wide", "long", "counter log").required(),
  delimiter: Joi.valid(",", ";", "\t", "|").required(),
  decimal: Joi.valid(".", ",").required(),
  timeColumn: Joi.string().max(300).required(),
  timeForm: Joi.valid(...timeForms).required(),
  offsetMinutes: Joi.number().integer().min(-900).max(900).default(0),
  tags: Joi.array().items(Joi.string().max(300)).max(100),
});

/**
 * What a sender of tables may say of them in the address: the decimal sign, the form of the times, their zone in
 * minutes east of UTC, the columns that are tags.
 */
export interface TableQuery {
  readonly decimal?: TableShape["decimal"];
  readonly times?: TableShape["timeForm"];
  readonly zone?: number;
  readonly tags?: string;
}
export const tableQuery = Joi.object<TableQuery>({
  decimal: Joi.valid(".", ","),
  times: Joi.valid(...timeForms),
  zone: Joi.number().integer().min(-900).max(900),
  tags: Joi.string().allow("").max(3000),
});
export const tableSchema = Joi.object<{ text: string; shape: TableShape | null }>({
  text: Joi.string().max(900_000).required(),
  shape: tableShapeSchema.allow(null).default(null),
});

const settings = {
  name: Joi.string().trim().min(1).max(100).required(),
  machine: Joi.string().trim().min(1).max(200).required(),
  intervalMs: Joi.number()
    .integer()
    .min(1000)
    .max(31 * 86_400_000)
    .required()
    .messages({ "number.min": "{{#label}} is 1 s at least", "number.max": "{{#label}} is 31 days at most" }),
  tellsSilence: Joi.boolean().default(true),
  trust: trustSchema.default({ kind: "system" }),
  tags: tags.default({}),
  take: Joi.array().items(takeRule).max(200).default([]),
  csv: tableShapeSchema.allow(null).default(null),
  lateMs: Joi.number().integer().min(0).max(86_400_000).allow(null).default(null),
  backDays: Joi.number().integer().min(1).max(3650).default(1),
  askedFrom: Joi.number().integer().allow(null).default(null),
  credentials: credentialsSchema,
};

export const newSourceSchema = Joi.object<SourceRequest>({
  ...settings,
  kind: Joi.valid(...sourceKindNames.filter((kind) => sourceKinds[kind].isMade)).required(),
  address: Joi.when("kind", { is: "pull", then: addressSchema.required(), otherwise: Joi.valid(null).default(null) }),
  device: Joi.when("kind", {
    is: Joi.valid(...deviceKindNames),
    then: deviceSchema.required(),
    otherwise: Joi.valid(null).default(null),
  }),
});

/**
 * A change gives all settings anew; credentials only where they change. This machine's own interval may be below a
 * second.
 */
export const changedSourceSchema = Joi.object<Omit<SourceRequest, "kind">>({
  ...settings,
  intervalMs: Joi.number().integer().min(100).max(3_600_000).required(),
  address: addressSchema.allow(null).default(null),
  device: deviceSchema.allow(null).default(null),
});

/** A pause ends by itself. */
export const pauseSchema = Joi.object<{ untilMs: number; why: string }>({
  untilMs: Joi.number().integer().required().custom(endsInTime).messages({
    past: "{{#label}} is over already",
    long: "{{#label}} is more than 31 days from now: a pause ends by itself",
  }),
  why: Joi.string().trim().allow("").max(2000).default(""),
});

function endsInTime(untilMs: number, helpers: CustomHelpers): number | ErrorReport {
  if (untilMs <= Date.now()) return helpers.error("past");
  return untilMs > Date.now() + longestQuietMs ? helpers.error("long") : untilMs;
}

export const trySchema = Joi.object<{
  address: SourceSettings["address"];
  device: SourceSettings["device"];
  trust: SourceSettings["trust"];
  credentials?: Credentials;
  take: SourceSettings["take"];
  tags: SourceSettings["tags"];
  machine: string;
  askedFrom: number | null;
  id?: number;
}>({
  id: Joi.number().integer(),
  address: addressSchema.allow(null).default(null),
  device: deviceSchema.allow(null).default(null),
  trust: settings.trust,
  credentials: credentialsSchema,
  take: settings.take,
  tags: settings.tags,
  machine: Joi.string().trim().max(200).allow("").default("machine"),
  askedFrom: settings.askedFrom,
}).custom((value, helpers) =>
  (value.address === null) === (value.device === null)
    ? helpers.message({ custom: '"address" or "device" is needed, and only one of them' })
    : value,
);

export const walkSchema = Joi.object<{
  device: SnmpDevice;
  credentials?: Credentials;
  askedFrom: number | null;
  id?: number;
  after?: string;
}>({
  id: Joi.number().integer(),
  device: snmpDeviceSchema.required(),
  credentials: credentialsSchema,
  askedFrom: settings.askedFrom,
  after: Joi.string()
    .max(300)
    .pattern(/^1(\.\d{1,10})+$/),
});

export const previewSchema = Joi.object<{ take: SourceSettings["take"]; tags: SourceSettings["tags"] }>({
  take: settings.take,
  tags: settings.tags,
});

/** Whether a text holds certificates that can be read; for a field of a schema. */
export function checkedPem(pem: string, helpers: Joi.CustomHelpers) {
  try {
    for (const one of pem.split(/(?=-----BEGIN CERTIFICATE-----)/)) if (one.trim() !== "") new X509Certificate(one);
    return pem;
  } catch {
    return helpers.message({
      custom:
        "{{#label}} holds no certificate that can be read: text from -----BEGIN CERTIFICATE----- to -----END CERTIFICATE-----",
    });
  }
}
