import { Session } from "node:inspector";
import { setTimeout as delay } from "node:timers/promises";
import { promisify } from "node:util";
import type { RequestHandler } from "express";
import Joi from "joi";
import { checked } from "../http/checked.ts";
import { Problem } from "../http/problem.ts";
import { signalOf } from "../http/signal-of.ts";
import { assertCommand } from "../people/by-command.ts";

/** So often it is looked what runs, µs: a thousandth of what is looked at goes into looking. */
const everyMicroseconds = 1000;

const askedSchema = Joi.object<{ seconds: number }>({
  seconds: Joi.number().integer().min(1).max(300).default(30),
});

/**
 * Samples for a while what the server's main thread runs, and answers a profile in the form that browsers' and editors'
 * developer tools open (Chrome DevTools Protocol, Profiler.Profile). It is let in by the token that the start command
 * gave to both; one at a time. `done` is told of it.
 */
export function profileHandler(token: string | undefined, done: () => Promise<void>): RequestHandler {
  let isOn = false;
  return async (request, response) => {
    assertCommand(request, token, "Profiles are");
    const { seconds } = checked(askedSchema, request.query);
    if (isOn) throw new Problem(409, "is-there-already", "A profile is being taken; wait until it is there.");
    isOn = true;
    const session = new Session();
    try {
      session.connect();
      const post = promisify(session.post.bind(session)) as (method: string, of?: object) => Promise<unknown>;
      await post("Profiler.enable");
      await post("Profiler.setSamplingInterval", { interval: everyMicroseconds });
      await post("Profiler.start");
      const isThere = await delay(seconds * 1000, true, { signal: signalOf(response) }).catch(() => false);
      const { profile } = (await post("Profiler.stop")) as { profile: object };
      if (!isThere) return; // nobody waits for it any more
      await done();
      response.json(profile);
    } finally {
      session.disconnect();
      isOn = false;
    }
  };
}
