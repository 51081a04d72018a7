import Joi from "joi";
import { isZone } from "../../core/time/is-zone.ts";
import type { Form } from "../../core/forms/form.ts";

/** How a document is checked against its form. */
export interface Strictness {
  /** Whether fields that the form does not know are taken and kept; a typing error is told where they are not. */
  readonly keepsUnknown: boolean;
  /** What is checked of a part beyond its form. */
  readonly further?: ReadonlyMap<Form, (schema: Joi.Schema) => Joi.Schema>;
}

/** The schema that checks what a form says. Covers the words of `Form`; others are left aside. */
export function joiOfForm(form: Form, strictness: Strictness): Joi.Schema {
  const schema = schemaOf(form, strictness);
  return strictness.further?.get(form)?.(schema) ?? schema;
}

function schemaOf(form: Form, strictness: Strictness): Joi.Schema {
  if (form.const !== undefined) return Joi.valid(form.const);
  if (form.enum) return Joi.valid(...form.enum);
  switch (form.type) {
    case "object":
      return objectOf(form, strictness);
    case "array":
      return arrayOf(form, strictness);
    case "string":
      return textOf(form);
    case "integer":
      return bounded(Joi.number().integer(), form);
    case "number":
      return bounded(Joi.number().unsafe(), form);
    case "boolean":
      return Joi.boolean();
    case "null":
      return Joi.valid(null);
    default:
      return Joi.alternatives(...(form.anyOf ?? []).map((one) => joiOfForm(one, strictness)));
  }
}

function textOf({ minLength, maxLength, pattern, trim, zone, said }: Form): Joi.Schema {
  let text = Joi.string();
  if (trim) text = text.trim();
  text = minLength === undefined && pattern === undefined ? text.allow("") : text.min(minLength ?? 0);
  if (maxLength !== undefined) text = text.max(maxLength);
  if (pattern !== undefined) text = text.pattern(new RegExp(pattern));
  if (zone) text = text.custom((name: string, helpers) => (isZone(name) ? name : helpers.error("zone")));
  const words = `{{#label}} ${said}`;
  return said === undefined ? text : text.messages({ "string.pattern.base": words, zone: words });
}

function bounded(number: Joi.NumberSchema, { minimum, maximum, said }: Form): Joi.Schema {
  let schema = number;
  if (minimum !== undefined) schema = schema.min(minimum);
  if (maximum !== undefined) schema = schema.max(maximum);
  return said === undefined ? schema : schema.messages({ "number.max": `{{#label}} ${said}` });
}

function arrayOf({ items, minItems, maxItems, differBy }: Form, strictness: Strictness): Joi.Schema {
  let schema = Joi.array();
  // Kinds of items are tried by the list itself, which is many times faster than alternatives are.
  if (items)
    schema = schema.items(
      ...((items.type === undefined && items.anyOf) || [items]).map((one) => joiOfForm(one, strictness)),
    );
  if (minItems !== undefined) schema = schema.min(minItems);
  if (maxItems !== undefined) schema = schema.max(maxItems);
  if (!differBy) return schema;
  const [field, what] = differBy;
  return schema.unique(field).messages({ "array.unique": `{{#label}} has the ${field} of another ${what}` });
}

function objectOf(form: Form, strictness: Strictness): Joi.Schema {
  const { properties, required = [], propertyNames, additionalProperties, minProperties, maxProperties } = form;
  if (additionalProperties) {
    let schema = Joi.object().pattern(
      propertyNames ? Joi.string().pattern(new RegExp(propertyNames.pattern)) : Joi.string(),
      joiOfForm(additionalProperties, strictness),
    );
    if (minProperties !== undefined) schema = schema.min(minProperties);
    if (maxProperties !== undefined) schema = schema.max(maxProperties);
    return schema;
  }
  let schema = Joi.object(
    Object.fromEntries(
      Object.entries(properties ?? {}).map(([name, one]) => {
        const field = joiOfForm(one, strictness);
        return [name, required.includes(name) ? field.required() : field];
      }),
    ),
  );
  if (strictness.keepsUnknown) schema = schema.unknown();
  if (form.anyOf) schema = schema.or(...namesOf(form.anyOf));
  if (form.oneOf) schema = schema.xor(...namesOf(form.oneOf));
  return schema;
}

const namesOf = (forms: readonly Form[]): string[] => forms.flatMap(({ required = [] }) => required);
