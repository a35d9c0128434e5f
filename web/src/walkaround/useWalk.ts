import { useDebounceFn, useIntervalFn } from "@vueuse/core";
import { computed, onScopeDispose, ref, shallowRef, watch } from "vue";

import { call, type Schemas } from "../api/client";
import { planWalk } from "../core/rulebook";
import { useSession } from "../app/session";
import { isOpen, newEntry, store, uuid7, type Kept, type What } from "../parts/device";
import type { Mark } from "../parts/marks";
import { useOutbox } from "../parts/outbox";

export type Checkpoint = Schemas["CheckpointOut"];
export type Station = Schemas["StationOut"];
export type Finding = NonNullable<Extract<What, { kind: "answered" }>["findings"]>[number];
export type Clear = Schemas["AnswerOut"]["clear"];
/** What is assumed until the opening is known. */
export const NO_CONDITIONS: Schemas["ConditionsIn"] = {
  air_c: 15,
  pitch_deg: 0,
  roll_deg: 0,
  dark: false,
  rain: false,
  people_on_foot: false,
  shift_hours: 10,
  moved: false,
  serviced: false,
  transported: false,
  frost: false,
  gap_left: null,
  gap_right: null,
  gap_rear: null,
  gap_front: null,
};
/** How often a page asks what others did, ms. */
const NEWS_MS = 10_000;
export const NO_OPENING: Schemas["OpeningOut"] = { purpose: "pre-start", hour_meter: 0, options: [], conditions: NO_CONDITIONS };
type Answered = Extract<What, { kind: "answered" }>;
export type ReadWhat = Extract<What, { kind: "read" }>;
type Opened = Extract<What, { kind: "opened" }>;
export type AnswerWhat = Answered | ReadWhat;
/** The reading that is itself the answer at its checkpoint. */
export const LEVEL = "hydraulic-level";
const answersBy = (w: What): w is AnswerWhat => w.kind === "answered" || (w.kind === "read" && w.reading === LEVEL);

/** What a card shows: the core's word, or this person's own last tap until the core has answered. */
export interface Shown {
  answer: "sound" | "defect" | "unseen" | "read";
  findings: Finding[];
  /** Where a reading is the answer: its inputs. */
  given: Record<string, number> | null;
  /** Null: nothing bad. `ungraded`: the core has not answered yet. */
  mark: Mark | null;
  differ: boolean;
  /** What it takes to put something milder in its place. */
  clear: Clear;
}

/** One walk on this device: its plan, its taps, and what the server last said of it. */
export function useWalk(machine: string, inspection: string) {
  const session = useSession();
  const outbox = useOutbox();
  const walk = shallowRef<Schemas["WalkOut"] | null>(null);
  const seen = shallowRef<Schemas["InspectionOut"] | null>(null);
  const local = shallowRef<Kept[]>([]);
  /** Entries of the look that what is shown comes from. */
  const heard = shallowRef(new Set<string>());
  const missing = ref(false);

  /** Earlier signatures: a new one does not cover them. What comes in later is one only if the status changed. */
  const signatures = computed(() => new Set((seen.value?.entries ?? []).filter((e) => e.kind === "signed").map((e) => e.id)));
  /** Taps on this device that the server's answer does not know of yet, oldest first. */
  const ahead = computed(() => {
    return local.value.filter((e) => e.state !== 2 && !heard.value.has(e.id)).sort((a, b) => (a.id < b.id ? -1 : 1));
  });
  const gone = computed(() => new Set(ahead.value.flatMap((e) => (e.what.kind === "undone" ? [e.what.target] : []))));

  const answers = computed(() => {
    const out = new Map<string, Shown>();
    for (const a of seen.value?.answers ?? []) {
      if (a.heads.every((h) => gone.value.has(h))) continue;
      const mark: Mark | null = a.answer === "unseen" ? "unseen" : a.grade === "sound" ? null : a.grade;
      out.set(a.checkpoint, { answer: a.answer, findings: a.findings, given: a.given, mark, differ: a.differ, clear: a.clear });
    }
    for (const e of ahead.value) {
      const w = e.what;
      if (gone.value.has(e.id)) continue;
      if (w.kind === "answered") {
        const mark: Mark | null = w.answer === "unseen" ? "unseen" : w.answer === "defect" ? "ungraded" : null;
        out.set(w.checkpoint, {
          answer: w.answer,
          findings: w.findings ?? [],
          given: null,
          mark,
          differ: false,
          clear: w.answer === "defect" ? "reason" : "free",
        });
      } else if (answersBy(w)) {
        const given = w.given as Record<string, number>;
        out.set(w.checkpoint, { answer: "read", findings: [], given, mark: "ungraded", differ: false, clear: "reason" });
      }
    }
    return out;
  });
  /** Readings in force as the core told of them, and this person's own that it has not judged yet. */
  const readings = computed(() => {
    const waiting = ahead.value.flatMap((e) => (e.what.kind === "read" && !gone.value.has(e.id) ? [{ id: e.id, what: e.what }] : []));
    const told = (seen.value?.verdict.readings ?? []).filter((r) => !gone.value.has(r.entry));
    return { told, waiting };
  });
  const notes = computed(() => [
    ...(seen.value?.notes ?? []).filter((n) => !gone.value.has(n.id)),
    ...ahead.value.flatMap((e) =>
      e.what.kind === "noted" && !gone.value.has(e.id) ? [{ id: e.id, text: e.what.text, checkpoint: e.what.checkpoint ?? "" }] : [],
    ),
  ]);
  const photos = computed(() => {
    const out = new Map<string, string[]>(Object.entries(seen.value?.photos ?? {}));
    for (const e of ahead.value) {
      if (e.what.kind === "photographed" && !gone.value.has(e.id))
        out.set(e.what.checkpoint, [...(out.get(e.what.checkpoint) ?? []), e.what.photo]);
    }
    return out;
  });
  const opened = computed<Schemas["OpeningOut"] | null>(() => {
    if (seen.value?.opened) return seen.value.opened;
    const own = local.value.find((e) => e.what.kind === "opened")?.what as Opened | undefined;
    return own
      ? {
          purpose: own.purpose ?? "pre-start",
          hour_meter: own.hour_meter,
          options: own.options ?? [],
          conditions: { ...NO_CONDITIONS, ...(own.conditions as Partial<Schemas["ConditionsIn"]>) },
        }
      : null;
  });
  const conditions = computed(() => opened.value?.conditions ?? NO_CONDITIONS);
  /** Stations in the order in which they were come to. */
  const visits = computed(() => [
    ...(seen.value?.visits ?? []),
    ...ahead.value.flatMap((e) => (e.what.kind === "arrived" ? [e.what.station] : [])),
  ]);
  const openedAt = computed(() => seen.value?.opened_at ?? local.value.find((e) => e.what.kind === "opened")?.at ?? null);
  /** What an undo would take back: this person's newest tap, and whether that takes a reason. */
  const undoable = computed<{ id: string; checkpoint: string; reason: boolean } | null>(() => {
    const mine = ahead.value.filter((e) => e.by === session.person?.id && !gone.value.has(e.id)).at(-1);
    for (const e of mine ? [mine] : []) {
      const w = e.what;
      if (w.kind === "answered" || w.kind === "read" || w.kind === "noted" || w.kind === "photographed") {
        return {
          id: e.id,
          checkpoint: w.checkpoint ?? "",
          reason: w.kind === "read" || (w.kind === "answered" && w.answer === "defect"),
        };
      }
    }
    const last = seen.value?.undoable;
    return last && !gone.value.has(last.id) ? last : null;
  });

  /** The entries that a person who stands at a checkpoint with this page open has seen there. */
  function seenAt(checkpoint: string): string[] {
    const server = seen.value?.answers.find((a) => a.checkpoint === checkpoint)?.heads ?? [];
    const own = ahead.value.filter((e) => answersBy(e.what) && e.what.checkpoint === checkpoint).map((e) => e.id);
    const earlier = (walk.value?.carried ?? []).filter((d) => d.checkpoint === checkpoint).flatMap((d) => d.entries);
    return [...new Set([...server, ...own, ...earlier])];
  }

  /** The readings of one kind at one place that a person with this page open has seen, with what they found earlier. */
  function readAt(checkpoint: string, reading: string): string[] {
    const told = readings.value.told.filter((r) => r.checkpoint === checkpoint && r.key === reading).map((r) => r.entry);
    const own = readings.value.waiting.filter((r) => r.what.checkpoint === checkpoint && r.what.reading === reading).map((r) => r.id);
    const earlier = (walk.value?.carried ?? []).filter((d) => d.checkpoint === checkpoint).flatMap((d) => d.entries);
    return [...new Set([...told, ...own, ...earlier])];
  }

  async function readLocal() {
    local.value = (await store.entries.where("inspection").equals(inspection).toArray()).filter(isOpen);
  }

  async function refresh() {
    const reply = await call("get", "/api/inspections/{inspection}", { params: { path: { inspection } } });
    const kept = reply.ok
      ? reply.data
      : reply.away && !seen.value
        ? await store.keptAs<Schemas["InspectionOut"]>(`inspection/${inspection}`)
        : null;
    if (kept) {
      seen.value = kept;
      heard.value = new Set(kept.entries.map((e) => e.id));
    }
    if (reply.ok) keepLater();
    await readLocal();
  }
  /** What the server said last, for a reload with no network: written when the hand rests. */
  const keepLater = useDebounceFn(() => {
    const entries = [...heard.value].map((id) => ({ id }));
    return outbox.keep(() => store.kept.put({ key: `inspection/${inspection}`, value: { ...seen.value, entries } }));
  }, 1500);

  /** What became of the look since it was last told: only what may be otherwise comes along. */
  function apply(now: Schemas["LookNowOut"]) {
    const before = seen.value;
    if (!before || now.since > before.seq || now.status !== before.status) return void refresh();
    if (now.seq <= before.seq) return;
    const anew = new Set([...now.answers.map((a) => a.checkpoint), ...now.gone]);
    const { status, notes, photos, visits, undoable, late, verdict, joined, seq } = now;
    const answers = [...before.answers.filter((a) => !anew.has(a.checkpoint)), ...now.answers];
    seen.value = { ...before, answers, status, notes, photos, visits, undoable, late, verdict, joined, seq };
    heard.value = new Set([...heard.value, ...now.entries]);
    keepLater();
  }
  /** What others did meanwhile. */
  async function news() {
    if (!seen.value || document.hidden || outbox.away) return;
    const query = { since: seen.value.seq };
    const reply = await call("get", "/api/inspections/{inspection}/now", { params: { path: { inspection }, query } });
    if (reply.ok && reply.data.seq > query.since) apply(reply.data);
  }
  useIntervalFn(() => void news(), NEWS_MS);

  async function load() {
    await outbox.count();
    await outbox.flush();
    await refresh();
    const key = `walk/${inspection}`;
    const body = { purpose: opened.value?.purpose ?? "pre-start", conditions: conditions.value, inspection };
    const reply = await planWalk({ machine }, body);
    if (reply.ok) {
      walk.value = reply.data;
      await outbox.keep(() => store.kept.put({ key, value: reply.data }));
    } else {
      walk.value = await store.keptAs<Schemas["WalkOut"]>(key);
    }
    missing.value = !walk.value || (!seen.value && local.value.length === 0 && !outbox.away);
  }

  /** Keep a tap on the device and send it. Null: the device would not take it, and nothing is lost from sight. */
  async function add(what: What, more: string[] = []): Promise<string | null> {
    const checkpoint = answersBy(what) && what.checkpoint;
    const before = what.kind === "read" ? readAt(what.checkpoint, what.reading) : checkpoint ? seenAt(checkpoint) : [];
    const entry = newEntry(machine, inspection, session.person!.id, what, [...before, ...more]);
    // Shown at once; taken back if the device does not keep it.
    local.value = [...local.value, entry];
    if (await outbox.post(entry)) return entry.id;
    local.value = local.value.filter((e) => e.id !== entry.id);
    return null;
  }

  async function addPhoto(checkpoint: string, blob: Blob): Promise<boolean> {
    const photo = uuid7();
    const kept = { id: photo, inspection, by: session.person!.id, at: new Date().toISOString(), blob, state: 0 as const };
    return (await outbox.postPhoto(kept)) && (await add({ kind: "photographed", photo, checkpoint })) !== null;
  }

  async function undo(reason: string) {
    const last = undoable.value;
    if (last) await add({ kind: "undone", target: last.id, reason }, [last.id]);
    return last;
  }

  onScopeDispose(outbox.watchLook(inspection, { since: () => seen.value?.seq ?? null, apply }));
  watch(
    () => outbox.taken,
    () => void refresh(),
  );
  watch(
    () => outbox.refused,
    () => void readLocal(),
  );
  return {
    walk,
    seen,
    heard,
    signatures,
    local,
    answers,
    readings,
    notes,
    photos,
    opened,
    conditions,
    visits,
    openedAt,
    undoable,
    missing,
    load,
    refresh,
    add,
    addPhoto,
    undo,
  };
}
