import { reactive } from "vue";

import { call, type Schemas } from "../api/client";
import { store } from "../parts/device";

type Drawing = Schemas["DrawingOut"];
/** Drawings by name. What bears a name never changes: each is fetched once and kept on the device. */
const drawings = reactive(new Map<string, Drawing>());
const asked = new Set<string>();

async function fetchOne(name: string) {
  if (asked.has(name)) return;
  asked.add(name);
  const key = `drawing/${name}`;
  const kept = await store.keptAs<Drawing>(key);
  if (kept) return void drawings.set(name, kept);
  const reply = await call("get", "/api/drawings/{drawing}", { params: { path: { drawing: name } } });
  if (!reply.ok) return void asked.delete(name);
  drawings.set(name, reply.data);
  await store.kept.put({ key, value: reply.data });
}

/** The machines' plans by name; those not here yet are fetched. */
export function useDrawings() {
  const want = (names: Iterable<string>) => Promise.all([...new Set(names)].map(fetchOne));
  return { drawings, want };
}
