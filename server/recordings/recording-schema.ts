import Joi from "joi";
import type { BeginBody } from "../../core/api/recordings.ts";
import { endings, type RecordingDocument } from "../../core/recordings/recording.ts";
import { recordingForm, runLengthForm } from "../../core/recordings/recording-form.ts";
import type { RunFile } from "../../core/recordings/run-file.ts";
import { counterKinds } from "../../core/counters/counter.ts";
import { joiOfForm } from "../http/joi-of-form.ts";

export const recordingSchema = (
  joiOfForm(recordingForm, { keepsUnknown: false }) as Joi.ObjectSchema<RecordingDocument>
)
  .custom((document: RecordingDocument, helpers) => {
    const { firstDay, lastDay } = document.schedule ?? {};
    return firstDay !== undefined && lastDay !== undefined && lastDay < firstDay ? helpers.error("days") : document;
  })
  .messages({ days: '"schedule.lastDay" lies before its first day' });

export const beginSchema = Joi.object<BeginBody>({
  forSeconds: joiOfForm(runLengthForm, { keepsUnknown: false }),
  anyway: Joi.boolean(),
}).default({});

const tags = Joi.object().pattern(Joi.string().max(100), Joi.string().allow("").max(1000));
const event = Joi.object({
  id: Joi.number().required(),
  fromMs: Joi.number().required(),
  toMs: Joi.number().required(),
  kind: Joi.string().max(100).required(),
  machine: Joi.string().allow("").max(200).required(),
  text: Joi.string().allow("").max(2000).required(),
  tags: tags.required(),
});
const series = Joi.object({
  counter: Joi.string().min(1).max(200).required(),
  unit: Joi.string().allow("").max(100).required(),
  kind: Joi.valid(...counterKinds).required(),
  tags: tags.required(),
  falls: Joi.alternatives(Joi.valid("restart", "corrected"), Joi.number()),
  of: Joi.array().items(Joi.string().max(100)).min(1).max(100).required(),
  afterMs: Joi.array().required(),
  values: Joi.array().required(),
});

/** A run's file; the numbers of its series are looked at when they are taken out. */
export const runFileSchema = Joi.object<RunFile>({
  nubrelRun: Joi.valid(1).required(),
  recording: recordingSchema.required(),
  startedAtMs: Joi.number().integer().min(0).max(8.64e15).required(),
  endedAtMs: Joi.number().integer().min(Joi.ref("startedAtMs")).max(8.64e15).required(),
  endedBecause: Joi.valid(...Object.keys(endings)).required(),
  notes: Joi.array().items(Joi.string().max(2000)).max(1000).required(),
  events: Joi.array().items(event).max(5000).required(),
  series: Joi.array().items(series).max(20_000).required(),
});
