import Joi from "joi";
import type { PushAnswer } from "../../core/api/sources.ts";
import type { TakenElsewhere } from "../sources/source-run.ts";

/** What a server that stands beside the one that leads has stored of what a source sent last. */
export interface Account extends TakenElsewhere {
  readonly source: number;
  /** Of which version its collector says it is. */
  readonly version: string | null;
  /** The text as received, now and then. */
  readonly raw: {
    readonly base64: string;
    readonly contentType: string;
    readonly isWhole: boolean;
    readonly atMs: number;
  } | null;
}

export interface Accounts {
  readonly accounts: readonly Account[];
  /** Collectors that send there: what is wished of them is told. */
  readonly collectors: readonly number[];
}

/** What collectors are told with the next answer, by their source. */
export interface Wishes {
  readonly wishes: readonly { readonly source: number; readonly told: Pick<PushAnswer, "gather" | "measure"> }[];
}

export const accountsPath = "/beside/accounts";

const count = Joi.number().integer().min(0).required();

export const accountsSchema = Joi.object<Accounts>({
  accounts: Joi.array()
    .items(
      Joi.object({
        source: count,
        atMs: Joi.number().required(),
        newestMs: Joi.number().allow(null).required(),
        isElsewhere: Joi.boolean(),
        tookMs: Joi.number(),
        certificateUntilMs: Joi.number().allow(null),
        help: Joi.array()
          .items(Joi.array().items(Joi.string().allow("")).length(2))
          .required(),
        taken: Joi.object({
          found: count,
          taken: count,
          leftOut: Joi.object().pattern(Joi.string(), count).required(),
        }).required(),
        version: Joi.string().allow(null).required(),
        raw: Joi.object({
          base64: Joi.string().allow("").required(),
          contentType: Joi.string().allow("").required(),
          isWhole: Joi.boolean().required(),
          atMs: Joi.number().required(),
        })
          .allow(null)
          .required(),
      }),
    )
    .required(),
  collectors: Joi.array().items(count.optional()).required(),
});
