import { computed, ref, watch } from "vue";

import { api, ask, type Schemas } from "../api/client";
import { useSession } from "../app/session";
import { plain, store, uuid7, type Kept, type What } from "../parts/device";
import { useOutbox } from "../parts/outbox";

export type Checkpoint = Schemas["CheckpointOut"];
export type Station = Schemas["StationOut"];
export type Finding = Schemas["FindingOut"];
export type Line = { id: string; by: string; at: string; what: What };
/** What is assumed until the opening is known. */
export const NO_CONDITIONS: Schemas["ConditionsIn"] = {
  air_c: 15, pitch_deg: 0, roll_deg: 0, dark: false, rain: false, people_on_foot: false, shift_hours: 10,
  moved: false, serviced: false, transported: false, frost: false, gap_left: null, gap_right: null, gap_rear: null, gap_front: null,
};
/** What the opening said of the place, without what the server added. */
export const conditionsOf = (opened: Schemas["OpenedIn"] | null) => opened?.conditions ?? NO_CONDITIONS;
type Answered = Extract<What, { kind: "answered" }>;
type Measured = Extract<What, { kind: "measured" }>;
export type AnswerWhat = Answered | Measured;

/**
 * The taps in force, for showing at once. What they amount to (grades, verdict) is the core's
 * business; this only mirrors which of a person's own taps stand.
 */
export function standing(lines: Line[]): Line[] {
  const ordered = [...lines].sort((a, b) => (a.id < b.id ? -1 : 1));
  const gone = new Set<string>();
  for (const line of [...ordered].reverse()) {
    if (line.what.kind === "undone" && !gone.has(line.id) && line.what.target < line.id) gone.add(line.what.target);
  }
  const signature = ordered.filter((l) => l.what.kind === "signed").at(-1);
  const covers = signature?.what.kind === "signed" ? new Set(signature.what.covers) : null;
  return ordered.filter((l) => {
    if (gone.has(l.id) || l.what.kind === "undone") return false;
    if (!covers || covers.has(l.id) || l.what.kind === "signed") return true;
    return (l.what.kind === "answered" || l.what.kind === "measured") && Boolean(l.what.amends);
  });
}

/** One walk on this device: its plan, its taps, and the verdict as the server last gave it. */
export function useWalk(machine: string, inspection: string) {
  const session = useSession();
  const outbox = useOutbox();
  const walk = ref<Schemas["WalkOut"] | null>(null);
  const seen = ref<Schemas["InspectionOut"] | null>(null);
  const local = ref<Kept[]>([]);
  const missing = ref(false);

  const lines = computed<Line[]>(() => {
    const all = new Map<string, Line>();
    for (const e of seen.value?.entries ?? []) {
      all.set(e.id, { id: e.id, by: e.by, at: e.at, what: { ...e.what, kind: e.kind } as unknown as What });
    }
    for (const e of local.value) if (e.state !== 2) all.set(e.id, e);
    return [...all.values()];
  });
  const stands = computed(() => standing(lines.value));
  const answers = computed(() => {
    const out = new Map<string, AnswerWhat>();
    for (const l of stands.value) if (l.what.kind === "answered" || l.what.kind === "measured") out.set(l.what.checkpoint, l.what);
    return out;
  });
  const notes = computed(() => stands.value.flatMap((l) => (l.what.kind === "noted" ? [l.what] : [])));
  const photos = computed(() => {
    const out = new Map<string, string[]>();
    for (const l of stands.value) {
      if (l.what.kind === "photographed") out.set(l.what.checkpoint, [...(out.get(l.what.checkpoint) ?? []), l.what.photo]);
    }
    return out;
  });
  const opened = computed(() => (stands.value.map((l) => l.what).find((w) => w.kind === "opened") ?? null) as Schemas["OpenedIn"] | null);
  /** Stations in the order in which they were come to. */
  const visits = computed(() => stands.value.flatMap((l) => (l.what.kind === "arrived" ? [l.what.station] : [])));
  const openedAt = computed(() => stands.value.find((l) => l.what.kind === "opened")?.at ?? null);
  const signed = computed(() => lines.value.some((l) => l.what.kind === "signed"));
  const grades = computed(() => {
    const order = ["sound", "watch", "mend", "limit", "hold"];
    const out = new Map<string, string>();
    for (const i of seen.value?.verdict.items ?? []) {
      if (order.indexOf(i.grade) > order.indexOf(out.get(i.checkpoint) ?? "sound")) out.set(i.checkpoint, i.grade);
    }
    return out;
  });
  /** What the last undo would take back: this person's newest tap that is not an arrival. */
  const undoable = computed(
    () => stands.value.filter((l) => l.by === session.person?.id && ["answered", "measured", "noted", "photographed"].includes(l.what.kind)).at(-1) ?? null,
  );

  async function readLocal() {
    local.value = await store.entries.where("inspection").equals(inspection).toArray();
  }

  async function refresh() {
    const reply = await ask<Schemas["InspectionOut"]>(api.GET("/api/inspections/{inspection}", { params: { path: { inspection } } }));
    if (reply.ok) {
      seen.value = reply.data;
      await store.kept.put({ key: `inspection/${inspection}`, value: reply.data });
    } else if (reply.away) {
      seen.value ??= ((await store.kept.get(`inspection/${inspection}`))?.value as Schemas["InspectionOut"]) ?? null;
    }
    await readLocal();
  }

  async function load() {
    await outbox.flush();
    await refresh();
    const key = `walk/${inspection}`;
    const body = { purpose: opened.value?.purpose ?? "pre-start", conditions: conditionsOf(opened.value), inspection };
    const reply = await ask<Schemas["WalkOut"]>(api.POST("/api/machines/{machine}/walk", { params: { path: { machine } }, body }));
    if (reply.ok) {
      walk.value = reply.data;
      await store.kept.put({ key, value: reply.data });
    } else if (reply.away) {
      walk.value = ((await store.kept.get(key))?.value as Schemas["WalkOut"]) ?? null;
    }
    missing.value = !walk.value || (lines.value.length === 0 && !outbox.away);
  }

  async function add(what: What): Promise<string> {
    const now = Date.now();
    const entry: Kept = {
      id: uuid7(now), inspection, machine, by: session.person!.id, at: new Date(now).toISOString(), what: plain(what), state: 0,
    };
    await store.entries.add(entry);
    local.value = [...local.value, entry];
    await outbox.count();
    void outbox.flush();
    return entry.id;
  }

  async function addPhoto(checkpoint: string, blob: Blob) {
    const photo = uuid7();
    await store.photos.add({ id: photo, inspection, blob, state: 0 });
    await add({ kind: "photographed", photo, checkpoint });
  }

  async function undo() {
    const last = undoable.value;
    if (last) await add({ kind: "undone", target: last.id });
    return last;
  }

  watch(() => outbox.taken, () => void refresh());
  watch(() => outbox.refused, () => void readLocal());
  return {
    walk, seen, lines, stands, answers, notes, photos, opened, visits, openedAt, signed, grades, undoable, missing,
    load, refresh, add, addPhoto, undo,
  };
}
