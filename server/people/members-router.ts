import { type Request, Router } from "express";
import Joi from "joi";
import * as routes from "../../core/api/people.ts";
import type { PersonBody } from "../../core/api/people.ts";
import type { Database } from "../db/pool.ts";
import { nameOf } from "../http/asker.ts";
import { Problem } from "../http/problem.ts";
import type { HandToRecipient } from "./hand-to-recipient.ts";
import { serve } from "../http/serve.ts";
import type { Entrance } from "./entrance.ts";
import { invitationWords } from "./invitation-words.ts";
import { hashPassword } from "./password.ts";
import { meOf } from "./me-of.ts";
import { limitsSchema, nameSchema, passwordSchema, roleSchema } from "./people-schema.ts";
import {
  acceptInvitationRow,
  changePersonRow,
  findInvitation,
  insertInvitation,
  insertPerson,
  LastOwnerError,
  listInvitationRows,
  listPersonRows,
  NameTakenError,
  removePersonRow,
  withdrawInvitationRow,
} from "./person-rows.ts";
import { closeSessions } from "./session-rows.ts";
import type { Trying } from "./sign-in-limit.ts";

interface MembersParts {
  readonly database: Database;
  readonly entrance: Entrance;
  /** By which links begin. */
  readonly address: () => Promise<string>;
  readonly hand: HandToRecipient;
}

/** Three days, if nothing is said; a month at most. */
const usualHours = 72;
const mostHours = 744;

const limits = Joi.when("role", {
  is: "viewer",
  then: limitsSchema.allow(null).default(null),
  otherwise: Joi.valid(null).default(null).messages({ "any.only": "{{#label}} are for viewers alone" }),
});
const invitationSchema = Joi.object<PersonBody & { hours: number; recipient?: number }>({
  role: roleSchema.required(),
  limits,
  hours: Joi.number().integer().min(1).max(mostHours).default(usualHours),
  recipient: Joi.number().integer().min(1),
});
const personSchema = Joi.object<PersonBody & { name: string; password: string }>({
  name: nameSchema,
  password: passwordSchema,
  role: roleSchema.required(),
  limits,
});
const changeSchema = Joi.object<Partial<PersonBody>>({ role: roleSchema, limits: limitsSchema.allow(null) }).min(1);
const acceptSchema = Joi.object<{ name: string; password: string }>({ name: nameSchema, password: passwordSchema });

const noSuchPerson = () => new Problem(404, "no-such-person", "There is nobody with this number, or they have left.");
const noSuchInvitation = () =>
  new Problem(
    404,
    "no-such-invitation",
    "This invitation was used, was withdrawn, has ended, or never was. Ask whoever sent it for another.",
  );

/** Owners' view of people and invitations, and what somebody does who was invited. */
export function membersRouter({ database, entrance, address, hand }: MembersParts): Router {
  const router = Router();

  serve(router, routes.listPeople, {}, async () => await listPersonRows(database));

  serve(router, routes.makePerson, { body: personSchema }, async ({ body: { password, ...wish } }) => {
    await entrance.assertGoodPassword(password, [wish.name]);
    const passwordHash = await entrance.hashed(() => hashPassword(password));
    return await told(() => insertPerson(database, { ...wish, passwordHash }));
  });

  serve(router, routes.listInvitations, {}, async () => await listInvitationRows(database));

  serve(router, routes.invitePerson, { body: invitationSchema }, async ({ body: { recipient, ...wish }, request }) => {
    const by = nameOf(request);
    const made = await insertInvitation(database, { ...wish, by });
    const url = `${await address()}/invitation/${made.code}`;
    const sent = recipient === undefined ? null : await hand(recipient, invitationWords({ ...made, url }));
    return { ...made, url, sent };
  });

  serve(router, routes.withdrawInvitation, {}, async ({ params: { id } }) => {
    if (!(await withdrawInvitationRow(database, id))) throw noSuchInvitation();
  });

  serve(router, routes.changePerson, { body: changeSchema }, async ({ params: { id }, body }) => {
    const changed = await told(() => changePersonRow(database, id, body));
    if (!changed) throw noSuchPerson();
    // What was open was opened as somebody else; pages connect again by themselves.
    await entrance.changed(id);
    return changed;
  });

  serve(router, routes.removePerson, {}, async ({ params: { id } }) => {
    if (!(await told(() => removePersonRow(database, id)))) throw noSuchPerson();
    await entrance.changed(id);
    entrance.ended(await closeSessions(database, id, {}));
  });

  return router;
}

/** What somebody does who was invited and is nobody here yet. */
export function invitedRouter({ database, entrance }: Pick<MembersParts, "database" | "entrance">): Router {
  const router = Router();

  serve(router, routes.getInvitation, {}, async ({ params: { code }, request }) => {
    const trying = tryingWith(code, request);
    await entrance.assertMayTry(trying);
    const found = await findInvitation(database, code);
    if (!found) throw noSuchInvitation();
    await entrance.noteRight(trying);
    const { role, by, until } = found;
    return { role, by, until };
  });

  serve(
    router,
    routes.acceptInvitation,
    { body: acceptSchema },
    async ({ params: { code }, body: { name, password }, request, response }) => {
      const trying = tryingWith(code, request);
      await entrance.assertMayTry(trying);
      if (!(await findInvitation(database, code))) throw noSuchInvitation();
      await entrance.noteRight(trying);
      await entrance.assertGoodPassword(password, [name]);
      const passwordHash = await entrance.hashed(() => hashPassword(password));
      const person = await told(() => acceptInvitationRow(database, code, { name, passwordHash }));
      if (!person) throw noSuchInvitation();
      await entrance.enter(request, response, person);
      return meOf(person);
    },
  );
  return router;
}

/** A code cannot be guessed: one that was used is tried again by those who have it, and locks nobody else out. */
const tryingWith = (code: string, request: Request): Trying => ({
  name: `invitation ${code.slice(0, 10)}`,
  address: request.ip ?? "",
  browser: undefined,
});

/** Does it; what the rows refuse is told as a Problem. */
async function told<T>(work: () => Promise<T>): Promise<T> {
  try {
    return await work();
  } catch (error) {
    if (error instanceof NameTakenError)
      throw new Problem(409, "the-name-is-taken", error.message, {
        errors: [{ path: "name", message: error.message }],
      });
    if (error instanceof LastOwnerError)
      throw new Problem(
        409,
        "the-last-owner",
        "There would be no owner left. Make somebody else an owner first; nothing was changed.",
      );
    throw error;
  }
}
