/** A failure that was foreseen: its message is a sentence for the person at the terminal, and no trace is printed. */
export class Told extends Error {
  code = 1;
}

/** A command was asked for something that there is not. */
export class WronglyAsked extends Told {
  code = 2;
}

/** Runs a script's main function; prints what was told and exits 1 where it fails. */
export async function runMain(main) {
  try {
    process.exitCode = await main();
  } catch (error) {
    process.stderr.write(`\n${error instanceof Told ? error.message : error.stack}\n`);
    process.exitCode = error instanceof Told ? error.code : 1;
  }
}

export const say = (line) => process.stdout.write(`  ${line}\n`);
