import { defineStore } from "pinia";
import { ref } from "vue";

import { api, ask, type Reply, type Schemas } from "../api/client";
import { measure } from "./clock";
import { purge, roomUsed, store, type Kept, type KeptPhoto } from "./device";

const FIRST_PAUSE_MS = 2000;
const LONGEST_PAUSE_MS = 60_000;
const BATCH = 200;
const FULL = 0.9;
/** A no that later tries cannot change. What is not among them passes: the network, a busy server, a session that ended. */
const FINAL = [400, 403, 404, 409, 410, 413, 415, 422];

/** Sends what waits on the device. What is not acknowledged stays and is sent again, each look by itself. */
export const useOutbox = defineStore("outbox", () => {
  const waiting = ref(0);
  const away = ref(false);
  const signedOut = ref(false);
  const refused = ref<(Kept | KeptPhoto)[]>([]);
  /** The device has little room left, or would not take the last tap. */
  const full = ref(false);
  /** Grows whenever the server took something new; views look again. */
  const taken = ref(0);
  /** When a look, or a photo, may be tried again, and the pause after the next failure. */
  const pauses = new Map<string, { until: number; pause: number }>();
  let running: Promise<void> | null = null;
  let again = false;
  let timer: number | undefined;

  async function count() {
    waiting.value = (await store.entries.where("state").equals(0).count()) + (await store.photos.where("state").equals(0).count());
    refused.value = [...(await store.entries.where("state").equals(2).toArray()), ...(await store.photos.where("state").equals(2).toArray())];
  }
  /** What of one look is still on this device alone: others' and other looks' business does not count. */
  const waitingFor = (inspection: string) => store.entries.where("inspection").equals(inspection).and((e) => e.state === 0).count();

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
    const open = await store.entries.where("state").equals(0).sortBy("id");
    for (const look of new Set(open.map((e) => e.inspection))) {
      if (!due(look)) continue;
      const mine = open.filter((e) => e.inspection === look);
      let went = true;
      for (let i = 0; i < mine.length && went; i += BATCH) went = await sendBatch(mine.slice(i, i + BATCH));
      if (went) pauses.delete(look);
      else failed(look);
    }
    for (const photo of await store.photos.where("state").equals(0).toArray()) {
      if (!due(photo.id)) continue;
      if (await sendPhoto(photo)) pauses.delete(photo.id);
      else failed(photo.id);
    }
    await count();
    schedule();
  }

  function note(reply: Reply<unknown>) {
    away.value = !reply.ok && reply.away;
    if (reply.ok) signedOut.value = false;
    else if (reply.status === 401) signedOut.value = true;
  }
  const secretsOf = async (people: string[]) => (await store.pens.where("person").anyOf(people).toArray()).map((p) => p.secret).slice(-40);

  /** True if nothing of the batch has to be tried again. */
  async function sendBatch(batch: Kept[]): Promise<boolean> {
    const first = batch[0]!;
    const entries: Schemas["EntryIn"][] = batch.map(({ id, by, at, what, replaces, offset_ms }) => ({ id, by, at, what, replaces, offset_ms }));
    const pens = await secretsOf([...new Set(batch.map((e) => e.by))]);
    const sent = Date.now();
    const reply = await ask<Schemas["TakenOut"]>(api.POST("/api/entries", { body: { machine: first.machine, stream: first.inspection, entries, pens } }));
    note(reply);
    if (!reply.ok) {
      if (!FINAL.includes(reply.status)) return false;
      // Turned down as a whole: which of them is it? Halves until the one is alone; nothing is dropped.
      if (batch.length > 1) {
        const half = Math.ceil(batch.length / 2);
        const one = await sendBatch(batch.slice(0, half));
        return (await sendBatch(batch.slice(half))) && one;
      }
      await store.entries.update(first.id, { state: 2, says: reply.problem?.detail ?? String(reply.status) });
      return true;
    }
    measure(sent, reply.data.now);
    for (const id of [...reply.data.stored, ...reply.data.known]) await store.entries.update(id, { state: 1, says: undefined });
    let later = false;
    for (const r of reply.data.refused) {
      await store.entries.update(r.id, r.again ? { says: r.says } : { state: 2, says: r.says });
      if (r.again) later = true;
    }
    if (reply.data.stored.length) taken.value += 1;
    return !later;
  }

  async function sendPhoto(photo: KeptPhoto): Promise<boolean> {
    const [pen] = (await secretsOf([photo.by])).slice(-1);
    const reply = await ask(
      api.PUT("/api/photos/{photo}", {
        params: { path: { photo: photo.id }, query: { inspection: photo.inspection }, header: pen ? { pen } : {} },
        body: photo.blob as unknown as string,
        bodySerializer: (b: unknown) => b as Blob,
        headers: { "content-type": "image/jpeg" },
      }),
    );
    note(reply);
    if (reply.ok) await store.photos.update(photo.id, { state: 1, says: undefined });
    else if (FINAL.includes(reply.status)) await store.photos.update(photo.id, { state: 2, says: reply.problem?.detail ?? String(reply.status) });
    else return false;
    return true;
  }

  /** A person decided: what was refused is tried once more, or let go. */
  async function tryAgain(id: string) {
    await store.entries.update(id, { state: 0, says: undefined });
    await store.photos.update(id, { state: 0, says: undefined });
    await flush(true);
  }
  async function letGo(id: string) {
    await store.entries.delete(id);
    await store.photos.delete(id);
    await count();
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

  window.addEventListener("online", () => void flush(true));
  document.addEventListener("visibilitychange", () => { if (!document.hidden) void flush(true); });
  void purge().catch(() => undefined);
  window.setInterval(() => void purge().catch(() => undefined), 3600_000);
  return { waiting, away, signedOut, refused, full, taken, flush, count, waitingFor, stateOf, keep, tryAgain, letGo };
});
