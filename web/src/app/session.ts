import { defineStore } from "pinia";
import { ref } from "vue";

import { api, ask, type Problem, type Schemas } from "../api/client";
import { store } from "../parts/device";

const KEPT = "session";

/** Who is signed in on this device. Kept on the device too, so that a walk goes on while the store is away. */
export const useSession = defineStore("session", () => {
  const person = ref<Schemas["PersonOut"] | null>(null);
  const site = ref("");
  const zone = ref("UTC");
  const known = ref(false);

  function set(found: Schemas["SessionOut"] | null) {
    person.value = found?.person ?? null;
    site.value = found?.site ?? "";
    zone.value = found?.zone ?? "UTC";
    known.value = true;
  }

  async function look() {
    const reply = await ask<Schemas["SessionOut"]>(api.GET("/api/session"));
    if (reply.ok) {
      set(reply.data);
      await store.kept.put({ key: KEPT, value: reply.data });
    } else if (reply.away) {
      set(((await store.kept.get(KEPT))?.value as Schemas["SessionOut"] | undefined) ?? null);
    } else {
      await forget();
    }
  }

  async function forget() {
    set(null);
    await store.kept.delete(KEPT);
  }

  async function signIn(who: string, pin: string, device: string): Promise<Problem | "away" | null> {
    const reply = await ask<Schemas["SessionOut"]>(api.POST("/api/session", { body: { person: who, pin, device } }));
    if (!reply.ok) return reply.problem ?? "away";
    set(reply.data);
    await store.kept.put({ key: KEPT, value: reply.data });
    return null;
  }

  async function signOut() {
    await ask(api.DELETE("/api/session"));
    await forget();
  }

  return { person, site, zone, known, look, forget, signIn, signOut };
});
