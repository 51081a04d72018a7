import { VirtualAuthenticatorOptions } from "selenium-webdriver/lib/virtual_authenticator.js";

/**
 * Gives a browser a device that keeps passkeys and checks whoever holds it (WebAuthn level 3, §11: the browser's own).
 * @param {import("selenium-webdriver").WebDriver} driver
 */
export async function addPasskeyDevice(driver) {
  const options = new VirtualAuthenticatorOptions();
  options.setTransport("internal");
  options.setHasResidentKey(true);
  options.setHasUserVerification(true);
  options.setIsUserVerified(true);
  await driver.addVirtualAuthenticator(options);
}
