import { basePath } from "../../api/base-path.ts";
import shellWorker from "./shell-worker.ts?worker&url";

/** Has this browser open the interface while the server is away; where it cannot, over plain http say, it does not. */
export function registerShell(): void {
  if (!window.isSecureContext || !("serviceWorker" in navigator)) return;
  navigator.serviceWorker.register(shellWorker, { scope: `${basePath}/` }).catch(() => undefined);
}
