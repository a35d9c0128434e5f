<script setup lang="ts">
import { promiseTimeout, useMediaQuery } from "@vueuse/core";
import { computed, onMounted, ref, shallowRef, watch } from "vue";
import PageState from "../parts/PageState.vue";
import { useI18n } from "vue-i18n";
import { useRoute } from "vue-router";

import BeginRun from "./BeginRun.vue";
import EnginePanel from "./EnginePanel.vue";
import HandOver from "./HandOver.vue";
import DetectionPlan from "./DetectionPlan.vue";
import ParkedPlan from "./ParkedPlan.vue";
import PutRight from "./PutRight.vue";
import NowCard from "./NowCard.vue";
import StepList from "./StepList.vue";
import TestFailed from "./TestFailed.vue";
import UndoWord from "./UndoWord.vue";
import WorkPanel from "./WorkPanel.vue";
import WatchedInterlocks from "./WatchedInterlocks.vue";
import ZonePlan from "./ZonePlan.vue";
import LookAgain from "./LookAgain.vue";
import MachineTells from "./MachineTells.vue";
import StandInKey from "./StandInKey.vue";
import { usePanel } from "./usePanel";
import { PHASES, useRun, type Outcome, type Phase, type Step } from "./useRun";

/** A run from key to key: what to do now, large; the engine; where nobody may stand; what is missing. */
const props = defineProps<{ machine: string }>();
const { t } = useI18n();
const route = useRoute();
const r = useRun(props.machine, typeof route.query.run === "string" ? route.query.run : "");
const { run } = r;
const p = usePanel(
  props.machine,
  computed(() => run.value?.panel ?? null),
  () => void r.refresh(),
);
const chosen = ref<Phase | "work" | "hand-over" | "">("");
const failing = ref<Step | null>(null);
const picked = ref("");
/** Parts of the step that is on that were so, as they are tapped. */
const seen = ref<string[]>([]);
onMounted(() => r.load());

/** Steps at which the machine takes the posture in which it is left. */
const PARKED = ["tool-down", "bucket-down", "bucket-tucked", "body-down"];
const TURNS = ["started", "warming", "ready-to-work", "working", "shutting-down", "stop", "cranking", "not-cleared", "putting-right"];
/** The part of the run that is on: what the stand says, unless a hand looks at another. */
const natural = computed<Phase | "work" | "hand-over">(() => {
  const all = run.value?.steps ?? [];
  const left = (p: Phase) => all.some((s) => s.phase === p && !s.settled);
  const can = (p: Phase) => all.some((s) => s.phase === p && !s.settled && s.mark !== "waiting" && s.mark !== "later");
  switch (run.value?.stand) {
    case "warming":
      return can("warm-up") ? "warm-up" : can("tests") ? "tests" : left("warm-up") ? "warm-up" : "tests";
    case "ready-to-work":
      return "move-off";
    case "working":
      return "work";
    case "shutting-down":
    case "not-cleared":
    case "putting-right":
      return "shutdown";
    case "stopped":
      return all.some((s) => s.phase === "start" && ["done", "open"].includes(s.mark) && s.at) ? "start" : "shutdown";
    case "secured":
    case "ended":
      return "hand-over";
    case "preparing":
      return left("ready") ? "ready" : "start";
    default:
      return "start";
  }
});
const part = computed(() => chosen.value || natural.value);
watch(natural, () => {
  chosen.value = "";
});
watch(part, () => {
  picked.value = "";
});
/** Tests with somebody near are made with the key on, before the start: they are shown there as long as it stands. */
const shownIn = (s: Step) => (s.near && run.value?.engine === "stopped" && !over.value ? "start" : s.phase);
const steps = computed(() => (run.value?.steps ?? []).filter((s) => shownIn(s) === part.value));
/** The step that is on: the one picked, else the first that can be done, else the first that waits. */
const next = computed<Step | null>(() => {
  const one = steps.value.find((s) => s.id === picked.value);
  if (one) return one;
  const waits = r.waiting.value.flatMap((e) => (e.what.kind === "stepped" ? [e.what.step] : []));
  const left = steps.value.filter((s) => !s.settled && !waits.includes(s.id));
  return left.find((s) => s.mark === "failed" || s.mark === "lost" || s.mark === "void") && run.value?.stand === "stop"
    ? left.find((s) => ["failed", "lost", "void"].includes(s.mark))!
    : (left.find((s) => s.mark === "open") ?? left.find((s) => s.mark === "waiting") ?? left[0] ?? null);
});
/** What is shown stays under the finger until the core has answered, or for so long that there is no connection. */
const now = shallowRef<Step | null>(null);
const busy = ref(false);
const ANSWER_MS = 1500;
watch(
  [next, busy],
  () => {
    if (!busy.value) now.value = next.value;
  },
  { immediate: true },
);
const narrow = useMediaQuery("(max-width: 800px)");
watch(
  () => `${Boolean(run.value?.run || r.id.value)} ${now.value?.id}`,
  () => {
    seen.value = [];
    // Each step begins at the same place: a long one before it, or the page it was begun on, would leave it out of reach.
    if (narrow.value) window.scrollTo(0, 0);
  },
  { flush: "post" },
);
const parts = computed(() => [...PHASES.slice(0, 5), "work" as const, "shutdown" as const, "hand-over" as const]);
/** What is missing beside what the list here shows. */
const missing = computed(() => (run.value?.missing ?? []).filter((m) => !steps.value.some((s) => m === s.name)));
/** Gone through again after each stop: of a run that is over nothing of it is left to count. */
const AFRESH = ["start", "warm-up", "move-off"];
/** It stands in the middle of the day: nothing of the shutdown was said. */
const paused = computed(
  () =>
    run.value?.engine === "stopped" &&
    run.value.started_at !== null &&
    !over.value &&
    !run.value.steps.some((s) => s.phase === "shutdown" && s.settled),
);
const over = computed(() => run.value?.stand === "secured" || run.value?.stand === "ended");
const through = (p: string) => (run.value?.steps ?? []).filter((s) => shownIn(s) === p && s.settled).length;
const of = (p: string) => (run.value?.steps ?? []).filter((s) => shownIn(s) === p).length;
/** What would be taken back, in words. */
const undone = computed(() => {
  const what = r.undoable.value?.what;
  if (what?.kind === "stepped") return run.value?.steps.find((s) => s.id === what.step)?.name ?? what.step;
  return what?.kind === "engine"
    ? t(`run.engineNow.${what.state}`)
    : what?.kind === "remarked"
      ? t(`run.sense.${what.sense}`)
      : t(what?.kind === "greased" ? `run.took.${what.took}` : "run.filled");
});
/** At work the ones that tell first; else those of the step that is on. */
const WORK = ["oil-pressure", "coolant", "hydraulic-oil", "transmission-oil", "volts", "air-restriction", "fuel-level", "exhaust-fluid"];
const needles = computed(() => (part.value === "work" ? WORK : (now.value?.needles ?? [])));
/** An engine that turns was ready to start, unless it is to be stopped now. */
const startable = computed(() => run.value?.ready_to_start || (turning.value && run.value?.stand !== "stop"));
const turning = computed(() => run.value && run.value.engine !== "stopped");

/** Somebody walks in: what was said of nobody being near is taken back before they do. */
function somebodyNear() {
  const clear = run.value?.steps.find((s) => s.nobody && s.mark === "done");
  if (clear) void r.step(clear, "lost", { reason: now.value?.name ?? "" });
}
/** Nobody is there to help now: on with the next; it stays to be done before work. */
function later() {
  const left = steps.value.filter((s) => !s.settled && !s.near && s.mark !== "later");
  picked.value = left[0]?.id ?? "";
}
async function done(outcome: Outcome, more: { value?: number | null; word?: string; reason?: string } = {}) {
  const s = now.value;
  if (!s || busy.value) return;
  if (outcome === "failed" && s.kind === "test" && s.checkpoint) {
    failing.value = s;
    return;
  }
  busy.value = true;
  await Promise.race([r.step(s, outcome, more), promiseTimeout(ANSWER_MS)]);
  picked.value = "";
  busy.value = false;
}
</script>

<template>
  <div class="run" :class="run?.stand" data-test="run" :data-stand="run?.stand">
    <p v-if="r.says.value" role="alert" class="page">{{ r.says.value }}</p>
    <div v-if="!run" class="page"><PageState v-if="!r.says.value" waits :lines="5" /></div>
    <BeginRun v-else-if="!run.run && !r.id.value" :run="run" :r="r" />
    <template v-else>
      <header class="top">
        <RouterLink class="button plain" :to="{ name: 'yard' }">{{ t("walk.toYard") }}</RouterLink>
        <h1>{{ run.machine.name }}</h1>
        <p class="word" role="status" data-test="stand">
          <b>{{ t(`run.stand.${run.stand}`) }}</b><span v-if="run.stand !== 'not-cleared' && run.stand !== 'putting-right'">{{
            run.says
          }}</span>
        </p>
        <p v-if="r.away.value" class="two" data-test="not-known">
          <span>{{ t("run.notKnown") }}</span>
        </p>
        <p v-else class="two">
          <span :class="{ yes: startable }">{{ t(startable ? "run.startYes" : "run.startNo") }}</span><span
            :class="{ yes: run.ready_to_work }"
            data-test="ready-to-work"
            >{{ t(run.ready_to_work ? "run.workYes" : "run.workNo") }}</span
          >
        </p>
        <RouterLink class="button emergency" :to="{ name: 'emergency', query: { machine: run.machine.id } }" data-test="emergency">{{
          t("emergency.title")
        }}</RouterLink>
      </header>
      <p v-if="r.away.value" class="off" role="status">{{ t("run.away", r.waiting.value.length) }}</p>
      <nav class="parts" :aria-label="t('run.parts')">
        <button
          v-for="x in parts"
          :key="x"
          type="button"
          class="button"
          :class="{ chosen: part === x, on: natural === x }"
          :aria-pressed="part === x"
          :data-test="`part-${x}`"
          @click="chosen = x">
          {{ t(`run.part.${x}`) }}<small v-if="of(x) && !(over && AFRESH.includes(x))">{{ through(x) }}/{{ of(x) }}</small>
        </button>
      </nav>
      <div class="columns">
        <section class="left stack">
          <div v-if="run.stand === 'stop'" class="stopnow" role="alert" data-test="stop-now">
            <b>{{ t("run.stopNow") }}</b><span v-for="m in run.missing.slice(0, 3)" :key="m">{{ m }}</span>
          </div>
          <div v-else-if="run.stand === 'not-cleared'" class="stopnow" role="alert" data-test="not-cleared">
            <b>{{ t("run.stand.not-cleared") }}</b><span>{{ run.says }}</span>
          </div>
          <div v-else-if="run.gate.cure" class="cure" role="status" data-test="putting-right">
            <b>{{ t(run.stand === "putting-right" ? "run.stand.putting-right" : "cure.may") }}</b><span>{{
              run.stand === "putting-right" ? run.says : `${run.gate.cure}. ${t("cure.alone")}`
            }}</span>
          </div>
          <div v-else-if="r.alarmed.value" class="stopnow" role="alert" data-test="stop-now">
            <b>{{ t("run.stopNow") }}</b><span>{{ t("run.awayStop") }}</span>
          </div>
          <MachineTells v-if="part !== 'hand-over'" :p="p" :keys="needles" />
          <WorkPanel v-if="part === 'work'" :run="run" :r="r" />
          <HandOver v-else-if="part === 'hand-over'" :run="run" :r="r" />
          <NowCard
            v-else-if="now"
            :key="now.id"
            :step="now"
            :run="run"
            :r="r"
            :busy="busy"
            @done="done"
            @seen="(parts) => (seen = parts)"
            @near="somebodyNear"
            @later="later" />
          <p v-else class="card">{{ t("run.partDone") }}</p>
          <EnginePanel
            v-if="part !== 'hand-over'"
            class="after"
            :run="run"
            :r="r"
            :tells="p.live.value ? (p.panel.value?.engine ?? null) : null" />
          <UndoWord
            v-if="r.undoable.value"
            class="after"
            :key="r.undoable.value.id"
            :what="undone"
            :stands="r.stands.value"
            @undo="(reason) => r.undo(reason)" />
        </section>
        <section class="right stack">
          <WatchedInterlocks v-if="turning" :run="run" :r="r" />
          <DetectionPlan
            v-if="now && run.detection.some((f) => f.step === now?.id)"
            class="detect"
            :run="run"
            :step="now.id"
            :seen="seen" />
          <ParkedPlan v-else-if="run.run && now && PARKED.includes(now.id)" :run="run" :says="now.does" />
          <ZonePlan v-else-if="TURNS.includes(run.stand) || part === 'start'" :run="run" />
          <PutRight v-if="run.engine === 'stopped' && run.gate.holding.length && !run.gate.cure" :run="run" :r="r" />
          <LookAgain v-if="paused" :run="run" />
          <StandInKey v-if="p.panel.value?.simulated" :machine="machine" />
          <StepList :steps="steps" :current="now?.id ?? ''" :waiting="r.waiting.value" @pick="(id) => (picked = id)" />
          <div v-if="missing.length && run.stand !== 'stop'" class="card">
            <h2 class="h3">{{ t("run.missing") }}</h2>
            <ul>
              <li v-for="m in missing.slice(0, 6)" :key="m">{{ m }}</li>
            </ul>
            <p v-if="missing.length > 6" class="quiet">{{ t("run.more", missing.length - 6) }}</p>
          </div>
        </section>
      </div>
      <TestFailed v-if="failing" :step="failing" :machine="machine" :r="r" @closed="failing = null" />
    </template>
  </div>
</template>

<style scoped>
.run { min-height: 100%; display: flex; flex-direction: column; }
.run > .page { width: 100%; }
.top { display: flex; align-items: center; gap: 16px; padding: 6px 16px; border-bottom: 2px solid var(--ink); flex-wrap: wrap; }
.word { display: flex; flex-direction: column; line-height: 1.15; flex: 1; min-width: 220px; } .word b { font-size: 26px; }
.two { display: flex; flex-direction: column; font-size: 16px; gap: 2px; color: var(--soft); } .two .yes { color: var(--sound); font-weight: 680; }
.emergency { border-color: var(--hold); color: var(--hold); }
.stop .top { background: var(--hold); color: var(--on-grade); } .stop .top :is(.two, .two .yes, .button) { color: var(--on-grade); } .stop .top .button { background: transparent; border-color: var(--on-grade); }
.parts { display: flex; gap: 8px; padding: 8px 16px; overflow-x: auto; } .parts .button { flex: none; padding: 4px 14px; flex-direction: column; gap: 0; line-height: 1.15; } .parts small { font-size: 14px; font-weight: 420; } .parts .on { border-width: 3px; }
.columns { display: grid; grid-template-columns: minmax(0, 1.35fr) minmax(0, 1fr); gap: 16px; padding: 4px 16px 24px; flex: 1; align-items: start; }
.stopnow { background: var(--hold); color: var(--on-grade); border-radius: 14px; padding: 16px; display: flex; flex-direction: column; gap: 6px; font-size: 20px; } .stopnow b { font-size: 34px; line-height: 1.1; }
.cure { border: 4px solid var(--limit); background: var(--card); border-radius: 14px; padding: 16px; display: flex; flex-direction: column; gap: 6px; font-size: 20px; } .cure b { font-size: 26px; }
.off { padding: 6px 16px; background: var(--here-soft); } ul { margin: 6px 0 0; padding-left: 22px; }
@media (max-width: 800px) { .columns { display: flex; flex-direction: column; align-items: stretch; } .left, .right { display: contents; } .right > * { order: 2; } .after { order: 1; } .detect { order: 0; } .stopnow { order: -1; } .top { gap: 8px; padding: 4px 8px; } .two { flex-direction: row; gap: 12px; } .parts { padding: 6px 8px; } .columns { padding: 4px 8px 24px; } }
</style>
