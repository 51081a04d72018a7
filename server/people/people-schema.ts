import Joi from "joi";
import { type Limits, type Role, roles } from "../../core/people/roles.ts";

export const nameSchema = Joi.string().trim().min(1).max(64).required();
export const passwordSchema = Joi.string().min(1).max(1000).required();
export const roleSchema = Joi.valid(...roles) as Joi.Schema<Role>;

const names = Joi.array().items(Joi.string().min(1).max(200)).min(1).max(100).unique();

/** What a viewer may be held to: one thing at least. */
export const limitsSchema = Joi.object<Limits>({
  machines: names,
  tags: Joi.array()
    .items(Joi.object({ tag: Joi.string().min(1).max(100).required(), is: names.required() }))
    .min(1)
    .max(20),
  dashboards: Joi.array().items(Joi.number().integer().min(1)).min(1).max(100).unique(),
})
  .or("machines", "tags", "dashboards")
  .messages({ "object.missing": '{{#label}} holds to nothing: name "machines", "tags" or "dashboards"' });
