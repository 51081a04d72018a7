import { getPushKey } from "../../../../core/api/messages.ts";
import { basePath } from "../../api/base-path.ts";
import { call } from "../../api/client.ts";
import workerAddress from "./push-worker.ts?worker&url";

/** What a browser was subscribed with. */
export interface Subscribed {
  readonly service: string;
  /** The subscription, as text. */
  readonly secret: string;
}

/** Why this browser cannot be told while no page is open; undefined where it can. */
export function whyNot(): string | undefined {
  if (!window.isSecureContext)
    return "A browser is told so over https alone. Sources, Transport says how this server comes by a certificate.";
  if (!("serviceWorker" in navigator) || !("PushManager" in window) || typeof Notification === "undefined")
    return "This browser cannot be told while no page is open. Some telephones can once this page stands on their home screen.";
  return undefined;
}

/** Asks the person and the browser's push service. Throws an Error with words for a person. */
export async function subscribeThisBrowser(): Promise<Subscribed> {
  if ((await Notification.requestPermission()) !== "granted")
    throw new Error("This browser does not let this page show notices; its settings for this address can allow it.");
  const { key } = await call(getPushKey, {});
  const registration = await navigator.serviceWorker.register(workerAddress, {
    type: "module",
    scope: `${basePath}/assets/`,
  });
  await isActive(registration);
  const subscription = await registration.pushManager
    .subscribe({ userVisibleOnly: true, applicationServerKey: key })
    .catch((error: Error) => {
      throw new Error(`The push service of this browser does not take it: ${error.message}`);
    });
  const { endpoint, keys } = subscription.toJSON();
  return { service: new URL(endpoint as string).origin, secret: JSON.stringify({ endpoint, keys }) };
}

function isActive(registration: ServiceWorkerRegistration): Promise<void> {
  const worker = registration.installing ?? registration.waiting;
  if (!worker) return Promise.resolve();
  return new Promise((resolve) => {
    worker.addEventListener("statechange", () => worker.state === "activated" && resolve());
  });
}
