import { By } from "selenium-webdriver";
import { readFileSync } from "node:fs";
import { createRequire } from "node:module";

const source = readFileSync(createRequire(import.meta.url).resolve("axe-core/axe.min.js"), "utf8");

/**
 * What axe finds on the page as it stands, one line a finding. The script comes through the driver: the page's own
 * policy would refuse it.
 */
export async function axeFindings(driver) {
  // While the page as it stood lies over the one that is drawn there are two of everything.
  await driver.wait(
    async () => (await driver.findElements(By.id("kept-page"))).length === 0,
    10_000,
    "the page as it stood was not taken away",
  );
  await driver.executeScript(`${source}; window.axe = axe;`);
  const violations = await driver.executeAsyncScript(
    "const done = arguments[0]; axe.run(document).then((result) => done(result.violations), (error) => done([{ id: String(error), nodes: [] }]));",
  );
  return violations.flatMap(({ id, nodes }) =>
    nodes
      .map(({ target, failureSummary }) => `${id}: ${target.join(" ")}: ${failureSummary}`)
      .concat(nodes.length === 0 ? [id] : []),
  );
}
