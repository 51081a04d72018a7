import { byText, fill } from "./browser.mjs";

export const owner = { name: "Ines", password: "kestrel on the quay" };

/** Goes through the first visit: makes the owner with the code and arrives at the fleet. */
export async function makeOwner(driver, server) {
  await driver.get(server.address);
  await fill(driver, "Set-up code", server.setupCode);
  await fill(driver, "Name", owner.name);
  await fill(driver, "Password", owner.password);
  await (await byText(driver, "button", "Make the account")).click();
  await byText(driver, "h1", "Fleet");
}
