import { useEventListener, useIntervalFn } from "@vueuse/core";
import type { Router } from "vue-router";

const LOOK_MS = 3600_000;

/**
 * Keeps the pages on the device, so that they start with no network. A newer shell is taken on the sign-in page only:
 * there nobody is in the middle of anything, and a tablet that is never closed gets it all the same.
 */
export function keepShell(router: Router) {
  if (!("serviceWorker" in navigator)) return;
  let renewing = false;
  useEventListener(navigator.serviceWorker, "controllerchange", () => {
    if (renewing) window.location.reload();
  });
  useEventListener(window, "load", async () => {
    const kept = await navigator.serviceWorker.register("/sw.js").catch(() => null);
    if (!kept) return;
    const renew = () => {
      if (router.currentRoute.value.name !== "sign-in" || !kept.waiting) return;
      renewing = true;
      kept.waiting.postMessage({ type: "SKIP_WAITING" });
    };
    router.afterEach(renew);
    useIntervalFn(
      () =>
        void kept
          .update()
          .then(renew)
          .catch(() => undefined),
      LOOK_MS,
    );
  });
}
