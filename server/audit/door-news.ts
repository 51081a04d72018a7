import { Router } from "express";
import Joi from "joi";
import * as routes from "../../core/api/door-news.ts";
import { type DoorNewsSettings, doorNews } from "../../core/api/door-news.ts";
import { doorNewsLines } from "../../core/audit/door-news.ts";
import type { Database } from "../db/pool.ts";
import { Problem } from "../http/problem.ts";
import type { HandToRecipient } from "../people/hand-to-recipient.ts";
import { serve } from "../http/serve.ts";
import { deedsAfter, keepDoorNews, noteDoorNews, readDoorNews } from "./door-news-rows.ts";

const atOnce = 500;
const mostLines = 50;

const settingsSchema = Joi.object<DoorNewsSettings>({
  recipient: Joi.number().integer().min(1).allow(null).required(),
  of: Joi.array()
    .items(Joi.valid(...doorNews))
    .unique()
    .required(),
});

/** To whom what happens at the door is told. */
export function doorNewsRouter(database: Database, isRecipient: (id: number) => Promise<boolean>): Router {
  const router = Router();
  const view = async () => {
    const { toldId: _, ...told } = await readDoorNews(database);
    return told;
  };
  serve(router, routes.getDoorNews, {}, view);
  serve(router, routes.putDoorNews, { body: settingsSchema }, async ({ body }) => {
    if (body.recipient !== null && !(await isRecipient(body.recipient))) {
      const message = '"recipient" is none that is here; it may have been removed.';
      throw new Problem(422, "the-request-does-not-fit", message, { errors: [{ path: "recipient", message }] });
    }
    await keepDoorNews(database, body);
    return await view();
  });
  return router;
}

/** Tells the recipient what happened at the door since they were last told; what they did not get is told again. */
export async function tellDoorNews(database: Database, hand: HandToRecipient, nowMs: number): Promise<void> {
  const { recipient, of, toldId } = await readDoorNews(database);
  if (recipient === null) return;
  const deeds = await deedsAfter(database, toldId, atOnce);
  const last = deeds.at(-1);
  if (!last) return;
  const lines = doorNewsLines(deeds, of);
  if (lines.length === 0) return await noteDoorNews(database, null, last.id);
  const subject = lines.length === 1 ? (lines[0] as string) : `${lines.length} things at the door of Nubrel`;
  const more = lines.length > mostLines ? [`and ${lines.length - mostLines} more, under People, Who did what.`] : [];
  const { worked, answer } = await hand(recipient, {
    subject,
    text: [...lines.slice(0, mostLines), ...more].join("\n"),
  });
  await noteDoorNews(database, { atMs: nowMs, worked, answer }, worked ? last.id : toldId);
}
