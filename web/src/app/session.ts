import { defineStore } from "pinia";
import { ref } from "vue";

import { api, ask, type Problem, type Schemas } from "../api/client";
import { measure } from "../parts/clock";
import { store } from "../parts/device";

const KEPT = "session";
/** Somebody signed out while the server was away: it has not heard of it yet. */
const LEFT = "left";

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
    if ((await store.kept.get(LEFT)) && !(await tellServer())) return forget();
    const sent = Date.now();
    const reply = await ask<Schemas["SessionOut"]>(api.GET("/api/session"));
    if (reply.ok) {
      measure(sent, reply.data.now);
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
    const sent = Date.now();
    const reply = await ask<Schemas["SignedInOut"]>(api.POST("/api/session", { body: { person: who, pin, device } }));
    if (!reply.ok) return reply.problem ?? "away";
    measure(sent, reply.data.now);
    const { pen, ...session } = reply.data;
    await store.pens.put({ id: pen.id, person: session.person.id, secret: pen.secret, ends_at: pen.ends_at });
    await store.kept.delete(LEFT);
    set(session);
    await store.kept.put({ key: KEPT, value: session });
    return null;
  }

  /** True once the server has ended the session of this device. */
  async function tellServer(): Promise<boolean> {
    const reply = await ask(api.DELETE("/api/session"));
    if (!reply.ok && reply.status !== 401) return false;
    await store.kept.delete(LEFT);
    return true;
  }

  /** Signed out here at once, whether or not the server can be told now. */
  async function signOut() {
    await store.kept.put({ key: LEFT, value: true });
    await forget();
    await tellServer();
  }

  return { person, site, zone, known, look, forget, signIn, signOut };
});
