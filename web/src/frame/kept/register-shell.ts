import { basePath } from "../../api/base-path.ts";
import shellWorker from "./shell-worker.ts?worker&url";

/**
 * Has this browser offer the pages as an application, and open them while the server is away; where it cannot, over plain
 * http say, it does not. To be called once the first view stands: what it asks for is not needed for that.
 */
export function registerShell(): void {
  if (document.querySelector("link[rel=manifest]")) return;
  const manifest = document.createElement("link");
  manifest.rel = "manifest";
  manifest.href = `${basePath}/manifest.webmanifest`;
  document.head.append(manifest);
  if (!window.isSecureContext || !("serviceWorker" in navigator)) return;
  navigator.serviceWorker.register(shellWorker, { scope: `${basePath}/` }).catch(() => undefined);
}
