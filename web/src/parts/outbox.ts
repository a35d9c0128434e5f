import { useEventListener } from "@vueuse/core";
import type { Table } from "dexie";
import { defineStore } from "pinia";
import { computed, ref, shallowReactive, shallowRef, watch } from "vue";

import { call, type Reply, type Schemas } from "../api/client";
import { useSession } from "../app/session";
import { coveredUntil, putBackSince } from "./backup";
import { measure, offsetMs } from "./clock";
import { withSeal } from "./pens";
import { askPin } from "./pinAgain";
import { isOpen, purge, roomUsed, store, type Kept, type KeptPhoto, type EncryptedEntry } from "./device";

const FIRST_PAUSE_MS = 2000;
const LONGEST_PAUSE_MS = 60_000;
const BATCH = 200;
const FULL = 0.9;
const SCARCE = 0.5;
/** How often what waits is read from the store again: another tab on this device taps into the same one. */
const RECOUNT_MS = 60_000;
const ASK_BACKUPS_MS = 600_000;
/** A no that later tries cannot change. What is not among them passes: the network, a busy server, a session that ended. */
const FINAL = [400, 403, 404, 409, 410, 413, 415, 422];

/** A page that shows a look: up to which place of the machine's log it knows it, and what to do with what became of it since. */
interface Watcher {
  since: () => number | null;
  apply: (now: Schemas["LookNowOut"]) => void;
}

/** Sends what waits on the device. What is not acknowledged stays and is sent again, each look by itself. */
export const useOutbox = defineStore("outbox", () => {
  /** What waits, as the device's store holds it: read from there at the start, then kept with each tap. */
  const open = shallowReactive(new Map<string, Kept | EncryptedEntry>());
  const openPhotos = shallowReactive(new Map<string, KeptPhoto>());
  const waiting = computed(() => open.size + openPhotos.size);
  const away = ref(false);
  const signedOut = ref(false);
  const refused = shallowRef<(Kept | EncryptedEntry | KeptPhoto)[]>([]);
  /** The device has little room left, or would not take the last tap. */
  const full = ref(false);
  /** Grows whenever the server took something of a look that no page shows; pages look again. */
  const taken = ref(0);
  /** When a look, or a photo, may be tried again, and the pause after the next failure. */
  const pauses = new Map<string, { until: number; pause: number }>();
  /** For which entries a PIN was asked for again, and whether it was given and they were sent. */
  const pins = new Map<string, Promise<boolean>>();
  const watchers = new Map<string, Watcher>();
  let running: Promise<void> | null = null;
  let again = false;
  let timer: number | undefined;

  /** Read from the device's store what waits and what was turned down. */
  async function count() {
    // What is tapped while the store is read is not in what was read, and waits all the same.
    const before = new Set([...open.keys(), ...openPhotos.keys()]);
    const [entries, photos] = await Promise.all([
      store.entries.where("state").notEqual(1).toArray(),
      store.photos.where("state").notEqual(1).toArray(),
    ]);
    const fill = <T extends Kept | EncryptedEntry | KeptPhoto>(map: Map<string, T>, all: T[]) => {
      const now = new Map(all.filter((x) => x.state === 0).map((x) => [x.id, x]));
      for (const id of map.keys()) if (before.has(id) && !now.has(id)) map.delete(id);
      for (const [id, x] of now) map.set(id, x);
    };
    fill(open, entries);
    fill(openPhotos, photos);
    refused.value = [...entries, ...photos].filter((x) => x.state === 2);
  }
  /** What of one look is still on this device alone: others' and other looks' business does not count. */
  const waitingFor = (inspection: string) => [...open.values()].filter((e) => e.inspection === inspection).length;

  /** What is told of one machine and still on this device alone, whichever look or page it belongs to. */
  const waitingAt = (machine: string) => [...open.values()].filter(isOpen).filter((e) => e.machine === machine);

  /** Keep an entry on the device and send it. False: the device would not take it. */
  async function post(made: Kept): Promise<boolean> {
    // A seal that cannot be made must not keep anything from being written down.
    const entry = await withSeal(made).catch(() => made);
    if (!(await keep(() => store.entries.add(entry)))) return false;
    open.set(entry.id, entry);
    void flush();
    return true;
  }
  async function postPhoto(photo: KeptPhoto): Promise<boolean> {
    if (!(await keep(() => store.photos.add(photo)))) return false;
    openPhotos.set(photo.id, photo);
    return true;
  }
  /** Whether somebody who signed out told something of a machine that is still on this device alone, and nobody here can read. */
  const encryptedAt = (machine: string) => [...open.values()].some((e) => e.machine === machine && !isOpen(e));
  /** Tell a page what becomes of its look with each answer of the server; gives the way to stop. */
  function watchLook(inspection: string, watcher: Watcher): () => void {
    watchers.set(inspection, watcher);
    return () => {
      if (watchers.get(inspection) === watcher) watchers.delete(inspection);
    };
  }
  /** Note in the store how entries stand with the server, all at once. */
  async function settle(
    table: Table<Kept | EncryptedEntry, string> | Table<KeptPhoto, string>,
    ids: string[],
    state: 0 | 1 | 2,
    says?: string,
    took?: string,
  ) {
    await (table as Table<Kept, string>)
      .where("id")
      .anyOf(ids)
      .modify(took ? { state, says, took } : { state, says });
  }

  /** Send everything that may be tried now; `now` forgets the pauses. Calls that come while it runs wait for one more run. */
  async function flush(now = false): Promise<void> {
    if (now) pauses.clear();
    again = true;
    running ??= (async () => {
      while (again) {
        again = false;
        await send();
      }
    })().finally(() => (running = null));
    await running;
  }

  const due = (key: string) => (pauses.get(key)?.until ?? 0) <= Date.now();
  function failed(key: string) {
    const pause = pauses.get(key)?.pause ?? FIRST_PAUSE_MS;
    pauses.set(key, { until: Date.now() + pause * (0.8 + 0.4 * Math.random()), pause: Math.min(LONGEST_PAUSE_MS, pause * 2) });
  }
  function schedule() {
    window.clearTimeout(timer);
    const next = Math.min(...[...pauses.values()].map((p) => p.until));
    if (Number.isFinite(next)) timer = window.setTimeout(() => void flush(), Math.max(250, next - Date.now()));
  }

  async function send() {
    const waits = [...open.values()].sort((a, b) => (a.id < b.id ? -1 : 1));
    for (const look of new Set(waits.map((e) => e.inspection))) {
      if (!due(look)) continue;
      const mine = waits.filter((e) => e.inspection === look);
      let went = true;
      for (let i = 0; i < mine.length && went; i += BATCH) went = await sendBatch(mine.slice(i, i + BATCH));
      if (went) pauses.delete(look);
      else failed(look);
    }
    for (const photo of [...openPhotos.values()]) {
      if (!due(photo.id)) continue;
      if (await sendPhoto(photo)) pauses.delete(photo.id);
      else failed(photo.id);
    }
    schedule();
  }

  /** Ask whether the server was put back from a backup, and let go of what one has. */
  async function lookAtBackups(): Promise<void> {
    if (await putBackSince()) {
      await count();
      void flush(true);
    }
    // Where room gets scarce, what the server took goes first: the next tap needs it.
    const scarce = ((await roomUsed()) ?? 0) > SCARCE;
    await purge(scarce ? new Date().toISOString() : await coveredUntil());
  }

  function note(reply: Reply<unknown>) {
    if (away.value && reply.ok) void lookAtBackups().catch(() => undefined);
    away.value = !reply.ok && reply.away;
    if (reply.ok) signedOut.value = false;
    else if (reply.status === 401) signedOut.value = true;
  }
  /** Secrets of the pens by which entries were written that the session's own does not cover: others', and earlier ones. */
  async function secretsFor(written: { by: string; at: string }[]): Promise<string[]> {
    const mine = useSession().pen;
    const others = written.filter((e) => e.by !== mine?.person || e.at < mine.since);
    if (!others.length) return [];
    const pens = await store.pens
      .where("person")
      .anyOf([...new Set(others.map((e) => e.by))])
      .toArray();
    return pens.map((p) => p.secret).slice(-40);
  }
  /** The site's word for the pens by which entries were sealed that a server took once: put back, it may not know them. */
  async function certificatesFor(batch: (Kept | EncryptedEntry)[]): Promise<string[]> {
    const again = batch.filter((e) => (!isOpen(e) || e.seal) && e.took);
    if (!again.length) return [];
    const pens = await store.pens
      .where("person")
      .anyOf([...new Set(again.map((e) => e.by))])
      .toArray();
    return pens.flatMap((p) => (p.certificate ? [p.certificate] : [])).slice(-40);
  }

  /** True if nothing of the batch has to be tried again. */
  async function sendBatch(batch: (Kept | EncryptedEntry)[]): Promise<boolean> {
    const first = batch[0]!;
    const entries: Schemas["EntryIn"][] = batch.map((e) => {
      if (!isOpen(e)) return { id: e.id, encrypted: e.encrypted };
      const { id, by, at, what, replaces, offset_ms, seal } = e;
      return seal ? { id, seal } : { id, by, at, what, replaces, offset_ms };
    });
    const pens = await secretsFor(batch.filter((e) => !isOpen(e) || !e.seal));
    const certificates = await certificatesFor(batch);
    const since = watchers.get(first.inspection)?.since() ?? null;
    const sent = Date.now();
    const reply = await call("post", "/api/entries", {
      body: { machine: first.machine, stream: first.inspection, entries, pens, certificates, since },
    });
    note(reply);
    if (!reply.ok) {
      if (!FINAL.includes(reply.status)) return false;
      // Turned down as a whole: which of them is it? Halves until the one is alone; nothing is dropped.
      if (batch.length > 1) {
        const half = Math.ceil(batch.length / 2);
        const one = await sendBatch(batch.slice(0, half));
        return (await sendBatch(batch.slice(half))) && one;
      }
      await turnDown(store.entries, first.id, reply.problem?.detail ?? String(reply.status));
      return true;
    }
    const { stored, known, refused: no, look, now } = reply.data;
    measure(sent, now);
    const here = [...stored, ...known];
    if (look) watchers.get(first.inspection)?.apply(look);
    for (const id of here) open.delete(id);
    if (here.length) await settle(store.entries, here, 1, undefined, now);
    for (const r of no.filter((x) => x.again)) await settle(store.entries, [r.id], 0, r.says);
    // What somebody answers for by name waits for their PIN; it is asked for once, and nothing else waits for it.
    for (const r of no.filter((x) => x.kind === "pin-again" && !pins.has(x.id))) {
      const by = batch.find((e) => e.id === r.id)!.by;
      pins.set(
        r.id,
        askPin(by, [r.id]).then((given) => (given ? flush(true).then(() => true) : false)),
      );
    }
    for (const r of no.filter((x) => !x.again)) await turnDown(store.entries, r.id, r.says);
    if (stored.length && !look) taken.value += 1;
    return !no.some((r) => r.again);
  }
  /** A final no: it stays on the device, with the server's words, until a person decides. */
  async function turnDown(table: Table<Kept | EncryptedEntry, string> | Table<KeptPhoto, string>, id: string, says: string) {
    await settle(table, [id], 2, says);
    await count();
  }

  async function sendPhoto(photo: KeptPhoto): Promise<boolean> {
    const [pen] = (await secretsFor([photo])).slice(-1);
    const reply = await call("put", "/api/photos/{photo}", {
      params: {
        path: { photo: photo.id },
        query: { inspection: photo.inspection, ...(photo.encrypted ? { encrypted_by: photo.by } : {}) },
        header: pen ? { pen } : {},
      },
      body: photo.blob as unknown as string,
      bodySerializer: (b: unknown) => b as Blob,
      headers: { "content-type": photo.encrypted ? "application/octet-stream" : "image/jpeg" },
    });
    note(reply);
    if (reply.ok) {
      openPhotos.delete(photo.id);
      await settle(store.photos, [photo.id], 1, undefined, new Date(Date.now() + (offsetMs() ?? 0)).toISOString());
    } else if (FINAL.includes(reply.status)) await turnDown(store.photos, photo.id, reply.problem?.detail ?? String(reply.status));
    else return false;
    return true;
  }

  /** A person decided: what was refused is tried once more, or let go. */
  async function tryAgain(id: string) {
    await store.entries.update(id, { state: 0, says: undefined });
    await store.photos.update(id, { state: 0, says: undefined });
    await count();
    await flush(true);
  }
  async function letGo(id: string) {
    await store.entries.delete(id);
    await store.photos.delete(id);
    await count();
  }

  /** Whether an entry's author gave the PIN, if it was asked for again; one that they would not answer for is let go. */
  async function answeredFor(id: string): Promise<boolean> {
    const given = (await pins.get(id)) ?? true;
    if (!given) await letGo(id);
    return given;
  }

  /** How an entry of this device stands with the server. */
  const stateOf = async (id: string) => (await store.entries.get(id))?.state ?? null;

  /** Write to the device; says at once if it would not take it. */
  async function keep<T>(write: () => Promise<T>): Promise<boolean> {
    try {
      await write();
      full.value = ((await roomUsed()) ?? 0) > FULL;
      return true;
    } catch {
      full.value = true;
      return false;
    }
  }

  useEventListener(window, "online", () => void flush(true));
  // Another tab may have tapped or sent meanwhile.
  useEventListener(document, "visibilitychange", () => {
    if (!document.hidden) void count().then(() => flush(true));
  });
  window.setInterval(
    () =>
      void count()
        .then(() => flush())
        .catch(() => undefined),
    RECOUNT_MS,
  );
  // Each time somebody is signed in here, and every ten minutes while one is.
  const session = useSession();
  watch(
    () => session.person?.id,
    (who) => {
      // What was encrypted on signing out, or opened again, stands in the store.
      void count().catch(() => undefined);
      if (who) void lookAtBackups().catch(() => undefined);
    },
    { immediate: true },
  );
  window.setInterval(() => session.person && void lookAtBackups().catch(() => undefined), ASK_BACKUPS_MS);
  return {
    waiting,
    away,
    signedOut,
    refused,
    full,
    taken,
    flush,
    count,
    post,
    postPhoto,
    watchLook,
    waitingFor,
    waitingAt,
    encryptedAt,
    answeredFor,
    stateOf,
    keep,
    tryAgain,
    letGo,
  };
});
