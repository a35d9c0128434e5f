import { defineStore } from "pinia";
import { ref } from "vue";

import { api, ask, type Schemas } from "../api/client";
import { store, type Kept } from "./device";

const RETRY_MS = 2500;
const BATCH = 200;

/** Sends what waits on the device. What is not acknowledged stays and is sent again. */
export const useOutbox = defineStore("outbox", () => {
  const waiting = ref(0);
  const away = ref(false);
  const signedOut = ref(false);
  const refused = ref<Kept[]>([]);
  /** Grows whenever the server took something new; views look again. */
  const taken = ref(0);
  let running: Promise<void> | null = null;
  let timer: number | undefined;

  async function count() {
    waiting.value = (await store.entries.where("state").equals(0).count()) + (await store.photos.where("state").equals(0).count());
    refused.value = await store.entries.where("state").equals(2).toArray();
  }

  function later() {
    window.clearTimeout(timer);
    timer = window.setTimeout(() => void flush(), RETRY_MS);
  }

  /** Send everything; calls that come while it runs wait for the same run and then one more. */
  async function flush(): Promise<void> {
    while (running) await running;
    running = send().finally(() => (running = null));
    await running;
  }

  async function send() {
    const open = await store.entries.where("state").equals(0).sortBy("id");
    let again = false;
    for (const inspection of new Set(open.map((e) => e.inspection))) {
      const mine = open.filter((e) => e.inspection === inspection);
      for (let i = 0; i < mine.length; i += BATCH) {
        if (!(await sendBatch(mine.slice(i, i + BATCH)))) again = true;
      }
    }
    for (const photo of await store.photos.where("state").equals(0).toArray()) {
      const reply = await ask(
        api.PUT("/api/photos/{photo}", {
          params: { path: { photo: photo.id }, query: { inspection: photo.inspection } },
          body: photo.blob as unknown as string,
          bodySerializer: (b: unknown) => b as Blob,
          headers: { "content-type": "image/jpeg" },
        }),
      );
      if (reply.ok) await store.photos.update(photo.id, { state: 1 });
      else again = true;
      noteState(reply.ok, reply.ok ? 200 : reply.status, !reply.ok && reply.away);
    }
    await count();
    if (again) later();
  }

  function noteState(ok: boolean, status: number, gone: boolean) {
    away.value = gone;
    if (ok) signedOut.value = false;
    else if (status === 401) signedOut.value = true;
  }

  async function sendBatch(batch: Kept[]): Promise<boolean> {
    const first = batch[0]!;
    const entries: Schemas["EntryIn"][] = batch.map(({ id, by, at, what }) => ({ id, by, at, what }));
    const reply = await ask<Schemas["TakenOut"]>(api.POST("/api/entries", { body: { machine: first.machine, inspection: first.inspection, entries } }));
    noteState(reply.ok, reply.ok ? 200 : reply.status, !reply.ok && reply.away);
    if (!reply.ok) {
      if (reply.away || reply.status === 401 || reply.status === 0) return false;
      // The whole batch was turned down: nothing of it is lost, but it needs a person.
      for (const e of batch) await store.entries.update(e.id, { state: 2, says: reply.problem?.detail ?? String(reply.status) });
      return true;
    }
    for (const id of [...reply.data.stored, ...reply.data.known]) await store.entries.update(id, { state: 1 });
    let again = false;
    for (const r of reply.data.refused) {
      if (r.again) again = true;
      else await store.entries.update(r.id, { state: 2, says: r.says });
    }
    if (reply.data.stored.length) taken.value += 1;
    return !again;
  }

  async function dropRefused(id: string) {
    await store.entries.delete(id);
    await count();
  }

  window.addEventListener("online", () => void flush());
  return { waiting, away, signedOut, refused, taken, flush, count, dropRefused };
});
