import { Ajv } from "ajv";
import answerSchemas from "../../core/api/answers.schema.json" with { type: "json" };
import { everyRoute } from "../../core/api/every-route.ts";

const ajv = new Ajv({ strict: false, allErrors: true, allowUnionTypes: true });
ajv.addSchema({ $id: "answers", definitions: answerSchemas.definitions });
const named = Object.keys(answerSchemas.answers);

const patterns = [...everyRoute].map(([name, route]) => ({
  name,
  route,
  pattern: new RegExp(`^/api${route.path.replace(/:id/g, "\\d+").replace(/:\w+/g, "[^/]+")}$`),
}));

/** Throws where an answer that succeeded is not what its route says: another status, or a body of another form. */
export function checkAnswer(method: string, address: string, status: number, body: unknown): void {
  if (status >= 300) return;
  const path = address.split("?")[0] as string;
  const found = patterns
    .filter(({ route, pattern }) => route.method === method && pattern.test(path))
    .sort((a, b) => a.route.path.split(":").length - b.route.path.split(":").length)[0];
  if (!found) return; // what is no route value: a sender's door, the description itself
  const { name, route } = found;
  if (status !== route.status) throw new Error(`${method} ${path} answered ${status}; its route says ${route.status}`);
  if (!named.includes(name)) return; // it answers nothing, or line by line
  const isRight = ajv.getSchema(`answers#/definitions/${name}`);
  if (!isRight) throw new Error(`there is no schema of what ${name} answers: npm run answers`);
  if (!isRight(body))
    throw new Error(
      `${method} ${path} answered what the type of ${name} does not say: ${ajv.errorsText(isRight.errors)}`,
    );
}
