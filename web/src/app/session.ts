import { useStorage } from "@vueuse/core";
import { defineStore } from "pinia";
import { ref } from "vue";

import { call, type Problem, type Reply, type Schemas } from "../api/client";
import { measure } from "../parts/clock";
import { store } from "../parts/device";
import { keepTabletKey, encryptAll, openUp } from "../parts/encrypted";
import { learnSiteKey, makePair } from "../parts/pens";
import { usual } from "../readings/units";

const KEPT = "session";
/** Somebody signed out while the server was away: it has not heard of it yet. */
const LEFT = "left";

/** A session as it is kept here; `since`: when it began by this device's clock. */
type KeptSession = Schemas["SessionOut"] & { since?: string };

/** Who is signed in on this device. Kept on the device too, so that a walk goes on while the store is away. */
export const useSession = defineStore("session", () => {
  const person = ref<Schemas["PersonOut"] | null>(null);
  const site = ref("");
  const zone = ref("UTC");
  /** Whom to call in an emergency, and under which number: the last that this device heard, signed in or not. */
  const numbers = useStorage<[string, string][]>("jutrel-numbers", []);
  const known = ref(false);
  const rights = ref<Schemas["Right"][] | null>(null);
  /** Whether who is signed in may do something; the server decides again when it is done, and alone where a session
   * was kept here before it told rights. */
  const may = (right: Schemas["Right"]) => person.value !== null && (rights.value?.includes(right) ?? true);
  /** What was written from `since` on is the session's own; null: not known, then all pens are shown. */
  const pen = ref<{ person: string; since: string } | null>(null);

  function set(found: KeptSession | null) {
    person.value = found?.person ?? null;
    pen.value = found?.since ? { person: found.person.id, since: found.since } : null;
    rights.value = found?.may ?? null;
    site.value = found?.site ?? "";
    zone.value = found?.zone ?? "UTC";
    usual.value = found?.units ?? "metric";
    if (found) numbers.value = found.numbers ?? [];
    known.value = true;
  }

  /** This browser lets nothing be kept: what is tapped would be lost, so nobody signs in here. */
  const denied = ref(false);

  async function look() {
    try {
      await store.open();
      denied.value = false;
    } catch {
      denied.value = true;
      return set(null);
    }
    if ((await store.kept.get(LEFT)) && !(await tellServer())) return forget();
    const sent = Date.now();
    const reply = await call("get", "/api/session");
    if (reply.ok) {
      measure(sent, reply.data.now);
      const before = await store.keptAs<KeptSession>(KEPT);
      const since = before?.person.id === reply.data.person.id ? before.since : undefined;
      set({ ...reply.data, since });
      await store.kept.put({ key: KEPT, value: { ...reply.data, since } });
    } else if (reply.away) {
      set(await store.keptAs<KeptSession>(KEPT));
    } else {
      await forget();
    }
  }

  async function forget() {
    // Nothing may keep anybody from signing out: what could not be encrypted now is, the next time this page is opened.
    await encryptAll().catch(() => undefined);
    set(null);
    await store.kept.delete(KEPT);
  }

  async function signIn(who: string, pin: string, device: string, own = ""): Promise<Problem | "away" | "denied" | null> {
    return await enter((key) => call("post", "/api/session", { body: { person: who, pin, device, key, new_pin: own } }));
  }

  /** With what a key of one's own answered. */
  async function signInByKey(credential: Schemas["Credential"], device: string): Promise<Problem | "away" | "denied" | null> {
    return await enter((key) => call("post", "/api/session/passkey", { body: { credential, device, key } }));
  }

  /** With what one's company sent the browser back. */
  async function signInByCompany(back: Omit<Schemas["CompanySignIn"], "key">): Promise<Problem | "away" | "denied" | null> {
    return await enter((key) => call("post", "/api/session/company", { body: { ...back, key } }));
  }

  async function enter(asks: (key: string) => Promise<Reply<Schemas["SignedInOut"]>>): Promise<Problem | "away" | "denied" | null> {
    if (denied.value) await look();
    if (denied.value) return "denied";
    const sent = Date.now();
    const pair = await makePair().catch(() => null);
    const reply = await asks(pair?.key ?? "");
    if (!reply.ok) return reply.problem ?? "away";
    measure(sent, reply.data.now);
    const { pen: given, tablet_key, ...session } = reply.data;
    const { id, secret, ends_at, certificate } = given;
    const since = new Date().toISOString();
    const kept = { ...session, since };
    try {
      const before = await store.keptAs<KeptSession>(KEPT);
      if (before?.person.id !== session.person.id) await encryptAll();
      await keepTabletKey(session.person.id, tablet_key);
      await openUp();
      await store.pens.put({ id, person: session.person.id, secret, ends_at, since, certificate, sealing: pair?.sealing });
      await store.kept.delete(LEFT);
      await store.kept.put({ key: KEPT, value: kept });
    } catch {
      // Full: without the pen nothing that is tapped here could be sent later.
      denied.value = true;
      await call("delete", "/api/session");
      return "denied";
    }
    set(kept);
    const site = await call("get", "/api/site/key");
    if (site.ok) await learnSiteKey(site.data.key).catch(() => undefined);
    return null;
  }

  /** True once the server has ended the session of this device. */
  async function tellServer(): Promise<boolean> {
    const reply = await call("delete", "/api/session");
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

  return { denied, person, may, pen, site, zone, numbers, known, look, forget, signIn, signInByKey, signInByCompany, signOut };
});
