<script setup lang="ts">
import { ElInput } from "element-plus";
import { computed, ref, watch } from "vue";
import { useI18n } from "vue-i18n";

import { figure } from "../app/language";
import GreasePlan from "./GreasePlan.vue";
import StepMeasure from "./StepMeasure.vue";
import { speak, voice } from "../parts/voice";
import { clock, type Outcome, type RunNow, type Step, type UseRun } from "./useRun";
import NumberField from "../parts/NumberField.vue";

/** The step that is on, readable at arm's length: what to do, the timer if there is one, yes, not so, or skipped. */
const props = defineProps<{ step: Step; run: RunNow; r: UseRun; busy: boolean }>();
const emit = defineEmits<{
  done: [outcome: Outcome, more: { value?: number | null; word?: string; reason?: string }];
  seen: [parts: string[]];
  near: [];
  later: [];
}>();
const { t, locale } = useI18n();
const skipping = ref(false);
const failing = ref(false);
const reason = ref("");
const value = ref<number | null>(
  props.step.role === "hour-meter" ? Number((props.run.machine.hour_meter - props.run.machine.meter_offset).toFixed(1)) : null,
);
const work = ref("");
const open = ref(false);
const left = computed(() =>
  props.step.ready_at && props.step.mark === "waiting" ? Date.parse(props.step.ready_at) - props.r.now.value : 0,
);
const due = computed(() => (props.step.within_s && props.run.due_at ? Date.parse(props.run.due_at) - props.r.now.value : null));
const wait = computed(() =>
  props.step.wait === "warm-up" ? props.run.warm_up : props.step.wait === "cool-down" ? props.run.cool_down : null,
);
const blocked = computed(() => props.busy || props.step.mark === "later" || left.value > 500);
/** Of what is looked for one by one, what was so. */
const seen = ref<string[]>([]);
const tick = (id: string) => {
  seen.value = seen.value.includes(id) ? seen.value.filter((x) => x !== id) : [...seen.value, id];
};
watch(seen, (now) => emit("seen", now));
/** Of what can be done in several ways, how it was. */
const way = ref("");
/** Somebody is in the danger area now. */
const walking = ref(false);
const walkIn = () => {
  walking.value = true;
  emit("near");
};
const word = computed(() =>
  props.step.role === "accept-limits"
    ? props.run.gate.accepted_as
    : props.step.parts.length
      ? seen.value.join(" ")
      : props.step.ways.length
        ? way.value
        : work.value,
);
const needs = computed(
  () =>
    (props.step.unit && value.value === null) ||
    (props.step.role === "last-work" && !work.value) ||
    seen.value.length < props.step.parts.length ||
    (props.step.ways.length > 0 && !way.value) ||
    (props.step.near && !walking.value) ||
    (props.step.points.some((p) => p.due && !p.took) && props.step.mark !== "done"),
);
const yes = computed(() => {
  if (props.step.kind === "test") return t("run.passed");
  if (props.step.kind === "wait") return t("run.waited");
  return t(props.step.kind === "interlock" ? "run.holds" : "run.yes");
});
speak(`${props.step.name}. ${props.step.does}`, locale.value);
const send = (outcome: Outcome) => {
  emit("done", outcome, { value: props.step.unit ? value.value : null, word: word.value, reason: reason.value.trim() });
  skipping.value = failing.value = walking.value = false;
  reason.value = "";
};
function notSo() {
  if (props.step.kind === "test") return send("failed");
  failing.value = true;
}
</script>

<template>
  <article class="card now" :class="step.mark" :data-test="`now-${step.id}`">
    <p v-if="walking" class="near" role="alert" data-test="somebody-near">
      <b>{{ t("run.near") }}</b> {{ t("run.nearDo") }}
    </p>
    <p v-if="step.people > 1" class="people">{{ t("run.twoPeople") }}</p>
    <h2>{{ step.name }}</h2>
    <p class="does">{{ step.does }}</p>
    <ul v-if="step.role === 'accept-limits'" class="limits">
      <li v-for="l in run.gate.limits" :key="l">{{ l }}</li>
    </ul>
    <p v-if="due !== null" class="timer figure" :class="{ late: due < 0 }" role="timer" data-test="due">
      {{
        due >= 0
          ? t("run.within", { s: Math.min(step.within_s ?? 10, Math.ceil(due / 1000)) })
          : t("run.late", { s: Math.ceil(-due / 1000) })
      }}
    </p>
    <p v-else-if="left > 0" class="timer figure" role="timer" data-test="left">{{ clock(left) }}</p>
    <p v-if="wait" class="quiet">{{ t("run.minutes", { n: figure(wait.minutes ?? 0, 0) }) }} {{ wait.judgement.why }}</p>
    <p v-if="step.says && step.mark !== 'open'" class="says" role="status">
      {{ step.by ? t("run.saidBy", { says: step.says, by: step.by }) : step.says }}
    </p>
    <p v-if="step.mark === 'failed' && step.no" class="no">{{ step.no }}</p>
    <div v-if="step.role === 'last-work'" class="chips" role="group" :aria-label="t('run.lastTen')">
      <span>{{ t("run.lastTen") }}</span>
      <button
        v-for="w in ['light', 'usual', 'heavy'] as const"
        :key="w"
        type="button"
        class="button"
        :class="{ chosen: work === w }"
        :aria-pressed="work === w"
        :data-test="`work-${w}`"
        @click="work = w">
        {{ t(`run.load.${w}`) }}
      </button>
    </div>
    <p v-for="f in step.figures" :key="f.name" class="fig" data-test="figure">
      {{ f.name }}: <b>{{ f.value === null ? t("run.figureUnknown") : f.unit ? `${f.value} ${f.unit}` : f.value }}</b>
    </p>
    <button
      v-if="step.near && !walking && step.mark !== 'later' && !step.settled"
      type="button"
      class="button walkin"
      data-test="walk-in"
      @click="walkIn">
      {{ t("run.walkIn") }}
    </button>
    <div v-if="step.ways.length" class="parts" role="group" :aria-label="t('run.how')">
      <button
        v-for="w in step.ways"
        :key="w.id"
        type="button"
        class="button"
        :class="{ chosen: way === w.id }"
        :aria-pressed="way === w.id"
        :data-test="`way-${w.id}`"
        @click="way = w.id">
        {{ w.name }}
      </button>
    </div>
    <div v-if="step.parts.length && (!step.near || walking)" class="parts" role="group" :aria-label="t('run.oneByOne')">
      <button
        v-for="p in step.parts"
        :key="p.id"
        type="button"
        class="button"
        :class="{ chosen: seen.includes(p.id) }"
        :aria-pressed="seen.includes(p.id)"
        :data-test="`part-of-${p.id}`"
        @click="tick(p.id)">
        {{ p.name }}
      </button>
    </div>
    <p v-if="step.role === 'trained'" class="says" :class="{ offer: run.briefing.offer }" data-test="briefing">{{ run.briefing.says }}</p>
    <GreasePlan v-if="step.points.length" :step="step" :run="run" :r="r" />
    <StepMeasure v-if="step.measures.length && step.mark !== 'later'" :step="step" :machine="run.machine.id" :r="r" />
    <label v-if="step.unit" class="row value"
      ><NumberField v-model="value" :precision="1" :step="1" :min="step.low" :max="step.high" :aria-label="step.name" data-test="value" />
      {{ step.unit }}</label
    >
    <form v-if="skipping || failing" class="stack" @submit.prevent="send(failing ? 'failed' : 'skipped')">
      <p v-if="failing && step.no" class="no">{{ step.no }}</p>
      <ElInput
        v-model="reason"
        maxlength="400"
        :placeholder="t(failing ? 'run.whatSeen' : 'run.whySkip')"
        :aria-label="t(failing ? 'run.whatSeen' : 'run.whySkip')"
        data-test="reason" />
      <div class="row wrap">
        <button type="submit" class="button primary" :disabled="skipping && reason.trim().length < 3" data-test="reason-save">
          {{ t(failing ? "run.notSo" : "run.skip") }}</button><button type="button" class="button" @click="skipping = failing = false">
          {{ t("run.back") }}
        </button>
      </div>
    </form>
    <div v-else class="buttons">
      <button type="button" class="button" :aria-expanded="open" @click="open = !open">{{ t("run.why") }}</button>
      <button v-if="step.near && !walking" type="button" class="button" data-test="later" @click="emit('later')">
        {{ t("run.later") }}
      </button>
      <button v-if="!step.life" type="button" class="button" data-test="skip" @click="skipping = true">{{ t("run.skip") }}</button>
      <button type="button" class="button bad" data-test="not-so" :disabled="busy || step.mark === 'later'" @click="notSo">
        {{ t(step.kind === "test" ? "run.failed" : "run.notSo") }}
      </button>
      <button type="button" class="button primary yes" data-test="yes" :disabled="blocked || Boolean(needs)" @click="send('done')">
        {{ yes }}
      </button>
    </div>
    <p v-if="open" class="quiet">{{ step.why }}</p>
    <div class="row spread wrap foot">
      <span class="quiet">{{ step.life ? t("run.life") : "" }}</span>
      <button v-if="voice.there" type="button" class="button plain" :aria-pressed="voice.on" data-test="voice" @click="voice.toggle()">
        {{ t(voice.on ? "run.voiceOff" : "run.voiceOn") }}
      </button>
    </div>
  </article>
</template>

<style scoped>
.now { display: flex; flex-direction: column; gap: 12px; border-width: 2px; border-color: var(--deep); padding: 20px; }
.now h2 { font-size: 34px; line-height: 1.12; } .does { font-size: 22px; line-height: 1.3; }
.now.failed, .now.lost, .now.void { border-color: var(--hold); }
.timer { font-size: 64px; line-height: 1; } .timer.late { color: var(--hold); }
.says { border-left: 5px solid var(--here); padding-left: 12px; } .offer { font-weight: 620; } .no { border-left: 5px solid var(--hold); padding-left: 12px; font-weight: 620; font-size: 20px; }
.buttons { display: flex; gap: 12px; flex-wrap: wrap; align-items: stretch; } .yes { flex: 1; min-height: 84px; font-size: 24px; min-width: 200px; } .bad { border-color: var(--hold); color: var(--hold); min-width: 110px; }
.near { background: var(--hold); color: var(--on-grade); border-radius: 12px; padding: 12px 16px; font-size: 20px; } .near b { display: block; font-size: 26px; } .walkin { min-height: 72px; font-size: 20px; border-width: 3px; } .fig { font-size: 20px; } .parts { display: grid; grid-template-columns: repeat(auto-fill, minmax(210px, 1fr)); gap: 10px; } .parts .button { min-height: 64px; font-size: 18px; } .people { font-weight: 680; color: var(--here); } .limits { margin: 0; padding-left: 24px; font-weight: 620; } .value { font-size: 24px; } .foot { margin: -6px 0; }
@media (max-width: 800px) { .now { padding: 14px; } .now h2 { font-size: 27px; } .does { font-size: 19px; } .yes { flex-basis: 100%; order: -1; } .timer { font-size: 52px; } }
</style>
