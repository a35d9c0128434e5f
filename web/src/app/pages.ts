import { shallowRef } from "vue";
import type { Router } from "vue-router";

const STAMP = "jutrel-anew";
const LATELY_MS = 30_000;

/** Where somebody wanted to go and could not: that page's script was not to be had, and loading anew did not help. */
export const notBrought = shallowRef<string | null>(null);

/**
 * A page's script that is not to be had: the server has a newer build, or there is no network. With the server there the
 * page is loaded anew, once; what was tapped is on the device. Else what is on the screen stays, and says so.
 */
export function bringPages(router: Router) {
  let wanted = window.location.pathname + window.location.search;
  let busy = false;

  async function bring() {
    if (busy) return;
    busy = true;
    const to = wanted;
    const there = await fetch("/", { cache: "no-store" }).then(
      (r) => r.ok,
      () => false,
    );
    const lately = Date.now() - Number(sessionStorage.getItem(STAMP) ?? 0) < LATELY_MS;
    if (there && !lately) {
      sessionStorage.setItem(STAMP, String(Date.now()));
      window.location.assign(to);
    } else notBrought.value = to;
    busy = false;
  }

  router.beforeEach((to) => {
    wanted = to.fullPath;
    notBrought.value = null;
  });
  window.addEventListener("vite:preloadError", (event) => {
    event.preventDefault();
    void bring();
  });
  router.onError(() => void bring());
}
