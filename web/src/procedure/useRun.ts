import { useIntervalFn, useNow } from "@vueuse/core";
import { computed, onScopeDispose, ref, shallowRef, watch } from "vue";

import { call, type Schemas } from "../api/client";
import { useSession } from "../app/session";
import { measure, offsetMs } from "../parts/clock";
import { isOpen, newEntry, store, uuid7, type Kept, type What } from "../parts/device";
import { useOutbox } from "../parts/outbox";

type Told = Schemas["RunOut"];
type Fixed = Schemas["RunFixedOut"];
/** A step as it is written, and how it stands. */
export type Step = Schemas["RunStepTextOut"] & Schemas["RunStepOut"];
export type RunNow = Omit<Told, "steps" | "fixed"> & Omit<Fixed, "steps"> & { steps: Step[] };
export type Phase = Schemas["Phase"];
export type Outcome = Extract<What, { kind: "stepped" }>["outcome"];
export type Remark = Extract<What, { kind: "remarked" }>;
export const PHASES: Phase[] = ["ready", "start", "warm-up", "tests", "move-off", "shutdown"];
/** How often a page asks what others said meanwhile, ms. */
const NEWS_MS = 8000;

/** What the server told of a run, with what does not change in it, which it tells once. */
function whole(told: Told, fixed: Fixed): RunNow {
  const written = new Map(fixed.steps.map((s) => [s.id, s]));
  return { ...told, ...fixed, steps: told.steps.map((s) => ({ ...written.get(s.id)!, ...s })) };
}

/** A run on this device: what the core last said of it, and this person's words that it has not heard yet. */
export function useRun(machine: string, which = "") {
  const session = useSession();
  const outbox = useOutbox();
  const run = shallowRef<RunNow | null>(null);
  const local = shallowRef<Kept[]>([]);
  /** The run of this page: the one under way, or the one that begins here. */
  const id = ref(which);
  const away = ref(false);
  const says = ref("");
  const ticking = useNow({ interval: 250 });
  /** The time as the server has it. */
  const ahead = ref(offsetMs() ?? 0);
  const now = computed(() => ticking.value.getTime() + ahead.value);
  /** Words of this device that what is shown does not know of yet, oldest first. */
  const waiting = computed(() => local.value.filter((e) => e.state === 0).sort((a, b) => (a.id < b.id ? -1 : 1)));

  const ofRun = async () => (await store.entries.where("inspection").equals(id.value).toArray()).filter(isOpen);
  /** What is sent counts as waiting until an answer is there that was asked for after it: else a tap would seem undone for a moment. */
  const asHeard = (all: Kept[], before: Kept[]) => {
    const sent = new Set(before.filter((e) => e.state === 1).map((e) => e.id));
    return all.map((e) => (e.state === 1 && !sent.has(e.id) ? { ...e, state: 0 as const } : e));
  };
  /** The part that does not change, and its name. */
  let fixed: { name: string; part: Fixed } | null = null;
  /** Questions asked and the newest one answered: an answer that was overtaken tells of a time that has passed. */
  let asks = 0,
    answered = 0;
  async function refresh() {
    const sent = id.value,
      ask = ++asks;
    const before = sent ? await ofRun() : null;
    const asked = Date.now();
    const reply = await call("get", "/api/machines/{machine}/run", {
      params: { path: { machine }, query: { ...(sent ? { run: sent } : {}), ...(fixed ? { known: fixed.name } : {}) } },
    });
    if (ask < answered) return;
    answered = ask;
    if (reply.ok && !reply.data.fixed && fixed?.name !== reply.data.fixed_name) {
      fixed = null;
      return refresh();
    }
    if (reply.ok) {
      measure(asked, reply.data.now);
      ahead.value = offsetMs() ?? 0;
      away.value = false;
      says.value = "";
      if (reply.data.run) id.value = reply.data.run;
      if (reply.data.fixed) {
        fixed = { name: reply.data.fixed_name, part: reply.data.fixed };
        await outbox.keep(() => store.kept.put({ key: `run-fixed/${machine}`, value: fixed }));
      }
      if (ask < answered) return;
      run.value = whole(reply.data, fixed!.part);
      if (id.value) {
        const all = await ofRun();
        local.value = before ? asHeard(all, before) : all;
      }
      await outbox.keep(() => store.kept.put({ key: `run/${machine}`, value: run.value }));
    } else if (sent && reply.status === 404 && !run.value) {
      id.value = "";
      return refresh();
    } else {
      // Whatever the reason: what is shown is of before, and no readiness is claimed.
      away.value = true;
      says.value = reply.away ? "" : (reply.problem?.detail ?? "");
      run.value ??= await store.keptAs<RunNow>(`run/${machine}`);
      if (run.value?.run) id.value = run.value.run;
      if (id.value) local.value = local.value.length ? asHeard(await ofRun(), local.value) : await ofRun();
    }
  }

  /** Of these words, those that none of the others corrects or takes back. */
  const unsent = computed(() => {
    const gone = new Set(waiting.value.flatMap((e) => [...e.replaces, ...(e.what.kind === "undone" ? [e.what.target] : [])]));
    return waiting.value.filter((e) => !gone.has(e.id) && e.what.kind !== "undone");
  });
  /** What this device said last of a step, while the server has not answered. */
  const lastSaid = (step: string) =>
    unsent.value
      .map((e) => e.what)
      .filter((w) => w.kind === "stepped" && w.step === step)
      .at(-1) as Extract<What, { kind: "stepped" }> | undefined;
  /** Something happened to the machine, or may have, and the server has not heard of it. */
  const happened = computed(() => outbox.encryptedAt(machine) || outbox.waitingAt(machine).some((e) => e.what.kind === "incident"));
  /** Lost or red while the engine turns: it is stopped for at once, not when the server has heard of it; what failed, when nobody can say how bad that is. */
  const alarmed = computed(
    () =>
      run.value?.engine !== "stopped" &&
      (happened.value ||
        unsent.value.some(
          ({ what: w }) =>
            (w.kind === "stepped" && (w.outcome === "lost" || (away.value && w.outcome === "failed"))) ||
            (w.kind === "remarked" && w.colour === "red"),
        )),
  );

  /** Keep a word on the device and send it; the core then says what has become of the run. */
  async function add(what: What, replaces: string[] = []): Promise<boolean> {
    const entry = newEntry(machine, id.value, session.person!.id, what, replaces);
    local.value = [...local.value, entry];
    if (!(await outbox.post(entry))) {
      local.value = local.value.filter((e) => e.id !== entry.id);
      return false;
    }
    await outbox.flush();
    await refresh();
    return true;
  }
  async function begin(opening: Omit<Extract<What, { kind: "opened" }>, "kind" | "purpose">) {
    id.value = uuid7();
    return add({ kind: "opened", purpose: "run", ...opening });
  }
  /** What this device said of a step that is still under way to the server. */
  const own = (step: string) => waiting.value.filter((e) => e.what.kind === "stepped" && e.what.step === step);
  async function step(s: Step, outcome: Outcome, more: { value?: number | null; word?: string; reason?: string } = {}) {
    return add({ kind: "stepped", step: s.id, outcome, value: more.value ?? null, word: more.word ?? "", reason: more.reason ?? "" }, [
      ...s.heads,
      ...own(s.id).map((e) => e.id),
    ]);
  }
  async function engine(state: Schemas["EngineNow"], why = "") {
    const mine = waiting.value.filter((e) => e.what.kind === "engine").map((e) => e.id);
    return add({ kind: "engine", state, why }, [...(run.value?.engine_heads ?? []), ...mine]);
  }

  /** This person's newest word that can be taken back: a step, the engine, a remark. */
  const undoable = computed(() => {
    const gone = new Set(local.value.flatMap((e) => (e.what.kind === "undone" ? [e.what.target] : [])));
    const mine = local.value.filter(
      (e) =>
        e.by === session.person?.id &&
        ["stepped", "engine", "remarked", "filled", "greased"].includes(e.what.kind) &&
        e.state !== 2 &&
        !gone.has(e.id),
    );
    return mine.sort((a, b) => (a.id < b.id ? -1 : 1)).at(-1) ?? null;
  });
  /** Whether it stands against the machine: then taking it back needs a reason. */
  const stands = computed(() => {
    const what = undoable.value?.what;
    return (
      (what?.kind === "stepped" && (what.outcome === "failed" || what.outcome === "lost")) ||
      (what?.kind === "remarked" && what.colour === "red") ||
      (what?.kind === "engine" && what.state !== "running")
    );
  });
  const undo = async (reason = "") => undoable.value && add({ kind: "undone", target: undoable.value.id, reason }, [undoable.value.id]);

  async function load() {
    await outbox.count();
    await outbox.flush();
    fixed = await store.keptAs<{ name: string; part: Fixed }>(`run-fixed/${machine}`);
    await refresh();
  }
  useIntervalFn(() => {
    if (!document.hidden && !outbox.away) void refresh();
  }, NEWS_MS);
  // A timer that has run out changes what may be done.
  const due = computed(() =>
    [run.value?.due_at, ...(run.value?.steps ?? []).filter((s) => s.mark === "waiting").map((s) => s.ready_at)].flatMap((t) =>
      t ? [Date.parse(t)] : [],
    ),
  );
  let rung = 0;
  watch(now, (at) => {
    const over = due.value.filter((t) => t <= at && t > rung);
    if (over.length) {
      rung = Math.max(...over);
      void refresh();
    }
  });
  const stop = watch(
    () => outbox.taken,
    () => void refresh(),
  );
  onScopeDispose(stop);
  return { run, id, local, waiting, lastSaid, alarmed, away, says, now, undoable, stands, load, refresh, add, begin, step, engine, undo };
}
export type UseRun = ReturnType<typeof useRun>;

/** Minutes and seconds to a time, or since one. */
export function clock(ms: number): string {
  const s = Math.max(0, Math.round(ms / 1000));
  return `${Math.floor(s / 60)}:${String(s % 60).padStart(2, "0")}`;
}
