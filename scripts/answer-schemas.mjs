// Writes core/api/answers.schema.json: a JSON Schema for the answer of every route, made from the types that core/api
// gives them.
// `npm run answers` after a type that is answered has changed; a test fails where that was forgotten.
import { readdirSync, readFileSync, writeFileSync } from "node:fs";
import { dirname, join } from "node:path";
import { fileURLToPath, pathToFileURL } from "node:url";
import { createFormatter, createParser, DEFAULT_CONFIG, SchemaGenerator } from "ts-json-schema-generator";
import ts from "typescript";

const root = dirname(dirname(fileURLToPath(import.meta.url)));
const folder = join(root, "core/api");
export const answersFile = join(folder, "answers.schema.json");

/**
 * The answers that a file's routes have: `route("GET", "/rules")<Nothing, readonly RuleView[]>()` answers the second of
 * its types.
 */
function answersIn(text, file) {
  const answers = [];
  for (const statement of ts.createSourceFile(file, text, ts.ScriptTarget.Latest, true).statements) {
    if (!ts.isVariableStatement(statement)) continue;
    for (const { name, initializer } of statement.declarationList.declarations) {
      const called =
        initializer && ts.isCallExpression(initializer) && ts.isCallExpression(initializer.expression)
          ? initializer.expression
          : undefined;
      if (called?.expression.getText() !== "route") continue;
      const type = initializer.typeArguments?.[1]?.getText() ?? "Nothing";
      if (type !== "Nothing" && !type.startsWith("LinesOf")) answers.push({ name: name.getText(), type });
    }
  }
  return answers;
}

/** The schemas of all answers by the name of their route, and what they share. */
export function answerSchemas() {
  const config = {
    ...DEFAULT_CONFIG,
    tsconfig: join(root, "core/tsconfig.json"),
    skipTypeCheck: true,
    expose: "export",
    topRef: true,
    sortProps: true,
    encodeRefs: false,
    additionalProperties: false,
  };
  const files = readdirSync(folder)
    .filter((name) => name.endsWith(".ts") && !name.endsWith(".test.ts"))
    .map((name) => join(folder, name));
  const texts = new Map(files.map((file) => [file, readFileSync(file, "utf8")]));
  const answers = files.flatMap((file) => answersIn(texts.get(file), file).map((answer) => ({ ...answer, file })));
  // The generator wants names: in its view of a file, each answer has one beside the route itself.
  for (const { file, name, type } of answers) texts.set(file, `${texts.get(file)}\nexport type ${name} = ${type};\n`);
  const options = {
    ...ts.parseJsonConfigFileContent(
      ts.readConfigFile(config.tsconfig, ts.sys.readFile).config,
      ts.sys,
      join(root, "core"),
    ).options,
    noEmit: true,
  };
  const host = ts.createCompilerHost(options);
  const read = host.getSourceFile.bind(host);
  host.getSourceFile = (name, target, ...more) =>
    texts.has(name) ? ts.createSourceFile(name, texts.get(name), target, true) : read(name, target, ...more);
  const program = ts.createProgram(files, options, host);
  const generator = new SchemaGenerator(program, createParser(program, config), createFormatter(config), config);
  const definitions = {};
  for (const { name } of answers) Object.assign(definitions, generator.createSchema(name).definitions);
  keepUnknown(definitions, "Dashboard");
  return {
    answers: Object.fromEntries(answers.map(({ name }) => [name, { $ref: `#/definitions/${name}` }]).sort()),
    definitions: Object.fromEntries(Object.entries(definitions).sort(([a], [b]) => (a < b ? -1 : 1))),
  };
}

/** A document that people hand on keeps fields that this version does not know, at every depth. */
function keepUnknown(definitions, name, done = new Set()) {
  if (done.has(name)) return;
  done.add(name);
  const open = (schema) => {
    if (typeof schema !== "object" || schema === null) return;
    if (schema.additionalProperties === false) schema.additionalProperties = true;
    if (schema.$ref) keepUnknown(definitions, schema.$ref.replace("#/definitions/", ""), done);
    for (const part of Object.values(schema)) open(part);
  };
  open(definitions[name]);
}

/** Comments are set in lines of their source; here each is one. */
const asOneLine = (key, value) =>
  key === "description" && typeof value === "string" ? value.replace(/\s*\n\s*/g, " ") : value;

/** As it stands in the file. */
export const answersText = () => `${JSON.stringify(answerSchemas(), asOneLine, 1)}\n`;

if (import.meta.url === pathToFileURL(process.argv[1] ?? "").href) writeFileSync(answersFile, answersText());
