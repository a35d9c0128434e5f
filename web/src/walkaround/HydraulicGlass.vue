<script setup lang="ts">
import { ElInput } from "element-plus";
import { useDebounceFn } from "@vueuse/core";
import { computed, onMounted, reactive, ref, watch } from "vue";
import { useI18n } from "vue-i18n";

import type { Schemas } from "../api/client";
import { latest, takeReading } from "../core/rulebook";
import JudgementLine from "../parts/JudgementLine.vue";
import { LEVEL, type ReadWhat } from "./useWalk";
import NumberField from "../parts/NumberField.vue";

const props = defineProps<{
  walk: Schemas["WalkOut"];
  checkpoint: string;
  conditions: Schemas["ConditionsIn"];
  taken: Record<string, number> | null;
  mustSay: boolean;
}>();
const emit = defineEmits<{ take: [what: ReadWhat] }>();
const { t } = useI18n();

const seen = ref(props.taken?.seen ?? 0.5);
const oil = ref(props.taken?.oil_c ?? props.conditions.air_c ?? 10);
const pitch = ref(props.taken?.pitch_deg ?? props.conditions.pitch_deg ?? 0);
const roll = ref(props.taken?.roll_deg ?? props.conditions.roll_deg ?? 0);
const out = reactive<Record<string, number>>(
  Object.fromEntries(props.walk.tank.rods.map((r) => [r.id, props.taken?.[`out.${r.id}`] ?? r.extension_at_check])),
);
/** The line starts somewhere; it is nobody's reading until a hand has moved it. */
const touched = ref(props.taken !== null);
const read = ref<Schemas["ReadResultOut"] | null>(null);
const away = ref(false);
const says = ref("");

// The glass: 0 at the low mark, 1 at the full mark; some room below and above. Its lower end is where no oil shows.
const LOW = 138,
  FULL = 58,
  TOP = 18,
  BOTTOM = 214;
const EMPTY = -1,
  HIGHEST = 1.4,
  LOWEST_SEEN = -0.7;
const inGlass = (f: number) => (f < LOWEST_SEEN ? EMPTY : Math.round(Math.min(HIGHEST, f) * 100) / 100);
const toY = (f: number) => LOW - f * (LOW - FULL);
const lineY = computed(() => Math.min(BOTTOM - 8, Math.max(TOP + 6, toY(seen.value))));
const svg = ref<SVGSVGElement | null>(null);

function setFrom(e: PointerEvent) {
  const box = svg.value!.getBoundingClientRect();
  const y = ((e.clientY - box.top) / box.height) * 230;
  seen.value = inGlass((LOW - y) / (LOW - FULL));
  touched.value = true;
}
function down(e: PointerEvent) {
  svg.value!.setPointerCapture(e.pointerId);
  setFrom(e);
}
function drag(e: PointerEvent) {
  if (svg.value!.hasPointerCapture(e.pointerId)) setFrom(e);
}
function key(e: KeyboardEvent) {
  const step = { ArrowUp: 0.02, ArrowDown: -0.02, PageUp: 0.1, PageDown: -0.1 }[e.key];
  if (step === undefined) return;
  e.preventDefault();
  e.stopPropagation();
  seen.value = inGlass(seen.value === EMPTY && step > 0 ? LOWEST_SEEN : seen.value + step);
  touched.value = true;
}

/** What was filled or drained before it reads so: the operator's own to put right. */
const filled = ref("");
const given = (): Record<string, number> => ({
  seen: seen.value,
  oil_c: oil.value,
  pitch_deg: pitch.value,
  roll_deg: roll.value,
  ...Object.fromEntries(Object.entries(out).map(([rods, far]) => [`out.${rods}`, far])),
});

const glass = latest((signal) => takeReading(LEVEL, { model: props.walk.model_id, inputs: given() }, signal));
const judge = useDebounceFn(async () => {
  const reply = await glass();
  if (reply === null) return;
  away.value = !reply.ok && reply.away;
  says.value = !reply.ok && reply.problem ? reply.problem.detail : "";
  if (reply.ok) read.value = reply.data;
  else read.value = null;
}, 120);
watch([seen, oil, pitch, roll, out], () => {
  void judge();
});
onMounted(judge);
/** Where the line starts is nobody's reading; that it cannot be judged so can be said before a hand has moved it. */
const judged = computed(() => (touched.value || read.value?.judgement.band === "refused" ? read.value : null));

/** Where the line would stand cold, level and in posture. */
const ghostY = computed(() => (judged.value?.value == null ? null : Math.min(BOTTOM - 4, Math.max(TOP + 4, toY(judged.value.value)))));

function take() {
  const done = filled.value.trim();
  emit("take", {
    kind: "read",
    checkpoint: props.checkpoint,
    reading: LEVEL,
    given: given(),
    told: {},
    reason: "",
    amends: "",
    put_right: done ? { done, amount: "" } : null,
  });
  filled.value = "";
}

const settings = computed(() => [
  { value: -1, label: t("glass.asChecked") },
  { value: 0.5, label: t("glass.half") },
  { value: 1, label: t("glass.out") },
]);
function setRod(id: string, value: number) {
  const rod = props.walk.tank.rods.find((r) => r.id === id)!;
  out[id] = value < 0 ? rod.extension_at_check : value;
}
const rodAt = (id: string, value: number) => {
  const check = props.walk.tank.rods.find((r) => r.id === id)!.extension_at_check;
  return value < 0 ? out[id] === check : out[id] === value;
};
/** A share of the gap between the marks, as whole hundredths. */
const percent = (x: number) =>
  Math.round(100 * x)
    .toString()
    .replace("-", "−");
const signed = (x: number) => (x < 0 ? "" : "+") + percent(x);
</script>

<template>
  <div class="glass">
    <svg
      ref="svg"
      viewBox="0 0 150 230"
      class="tube"
      role="slider"
      tabindex="0"
      :aria-label="t('glass.line')"
      aria-valuemin="-1"
      aria-valuemax="1.4"
      :aria-valuenow="seen"
      :aria-valuetext="seen === EMPTY ? t('glass.nothing') : t('glass.seenText', { f: percent(seen) })"
      data-test="glass"
      @pointerdown="down"
      @pointermove="drag"
      @keydown="key">
      <clipPath id="bore"><rect x="52" :y="TOP" width="46" :height="BOTTOM - TOP" rx="23" /></clipPath>
      <rect x="52" :y="TOP" width="46" :height="BOTTOM - TOP" rx="23" class="wall" />
      <rect x="52" :y="lineY" width="46" :height="BOTTOM - lineY" clip-path="url(#bore)" class="oil" />
      <rect x="52" :y="TOP" width="46" :height="BOTTOM - TOP" rx="23" class="rim" />
      <g class="marks">
        <path :d="`M42 ${FULL}H108M42 ${LOW}H108`" />
        <text x="34" :y="FULL + 6">{{ t("glass.full") }}</text>
        <text x="34" :y="LOW + 6">{{ t("glass.low") }}</text>
      </g>
      <path v-if="ghostY !== null" :d="`M40 ${ghostY}H110`" class="ghost" data-test="ghost" />
      <g :transform="`translate(0 ${lineY})`" class="handle">
        <path d="M38 0H124" />
        <circle cx="126" cy="0" r="15" />
      </g>
    </svg>
    <div class="read">
      <template v-if="judged?.value != null">
        <p>
          <span class="figure big" data-test="corrected">{{ percent(judged.value) }} %</span>{{ " "
          }}<span class="figure">{{ t("glass.ofBand") }}</span>
        </p>
        <p class="quiet dashed">{{ t("reading.ghost") }}</p>
        <p class="quiet">
          {{
            t("glass.sum", {
              seen: percent(judged.inputs.seen as number),
              rods: signed(judged.more.posture!),
              oil: signed(judged.more.temperature!),
              slope: signed(judged.more.tilt!),
            })
          }}
        </p>
      </template>
      <JudgementLine v-if="judged" :judgement="judged.judgement" />
      <p v-else-if="away" class="quiet">{{ t("glass.away", { f: percent(seen) }) }}</p>
      <p v-else-if="says" role="alert">{{ says }}</p>
      <button type="button" class="button" :class="{ primary: touched }" :disabled="!touched" data-test="take" @click="take">
        {{ taken ? t("glass.again") : touched ? t("glass.take") : t("glass.first") }}
      </button>
    </div>
    <div class="inputs">
      <button
        type="button"
        class="button"
        :class="{ chosen: seen === EMPTY }"
        :aria-pressed="seen === EMPTY"
        data-test="glass-empty"
        @click="
          seen = EMPTY;
          touched = true;
        ">
        {{ t("glass.nothing") }}
      </button>
      <label v-if="mustSay" class="filled"
        >{{ t("glass.filled") }}<ElInput v-model="filled" maxlength="200" data-test="glass-filled"
      /></label>
      <p class="quiet">{{ t("glass.posture") }} {{ walk.tank.posture }}.</p>
      <div v-for="r in walk.tank.rods" :key="r.id" class="rod" role="group" :aria-label="r.name">
        <span>{{ r.name }}</span>
        <button
          v-for="s in settings"
          :key="s.value"
          type="button"
          class="button"
          :class="{ chosen: rodAt(r.id, s.value) }"
          :aria-pressed="rodAt(r.id, s.value)"
          @click="setRod(r.id, s.value)">
          {{ s.label }}
        </button>
      </div>
      <div class="numbers">
        <label
          >{{ t("glass.oil") }}<NumberField v-model="oil" :step="1" :min="-60" :max="140" :aria-label="t('glass.oil')" data-test="oil"
        /></label>
        <label
          >{{ t("glass.pitch")
          }}<NumberField v-model="pitch" :step="0.5" :min="-45" :max="45" :aria-label="t('glass.pitch')" data-test="pitch"
        /></label>
        <label
          >{{ t("glass.roll") }}<NumberField v-model="roll" :step="0.5" :min="-45" :max="45" :aria-label="t('glass.roll')" data-test="roll"
        /></label>
      </div>
    </div>
  </div>
</template>

<style scoped>
.glass { display: grid; grid-template-columns: 150px 1fr; gap: 8px 20px; }
.tube { width: 150px; height: 230px; touch-action: none; cursor: ns-resize; user-select: none; }
.wall { fill: var(--paper); }
.oil { fill: var(--oil); }
.rim { fill: none; stroke: var(--ink); stroke-width: 2.4; }
.marks path { stroke: var(--ink); stroke-width: 1.8; stroke-dasharray: 5 4; }
.marks text { font-size: 17px; text-anchor: end; fill: var(--ink); }
.ghost { stroke: var(--deep); stroke-width: 3.5; stroke-dasharray: 8 5; fill: none; }
.handle path { stroke: var(--here); stroke-width: 5; }
.dashed::before { content: ""; display: inline-block; width: 34px; border-top: 3.5px dashed var(--deep); margin-right: 10px; vertical-align: middle; }
.handle circle { fill: var(--here); }
.big { font-size: 50px; line-height: 1; }
.figure { font-size: 20px; }
.big.figure { font-size: 50px; }
.read { display: flex; flex-direction: column; gap: 8px; align-self: center; min-width: 0; padding-top: 10px; }
.inputs { grid-column: 1 / -1; display: grid; gap: 12px; }
.rod { display: flex; gap: 12px; align-items: center; flex-wrap: wrap; }
.rod span { flex: 1 1 100px; font-weight: 560; }
.rod .button { padding: 6px 14px; font-weight: 520; }
.numbers { display: grid; grid-template-columns: repeat(auto-fit, minmax(150px, 1fr)); gap: 12px; }
.numbers label { display: grid; gap: 4px; font-size: 16px; }
.numbers :deep(.el-input-number) { width: 100%; }
@media (max-width: 700px) { .glass { grid-template-columns: 120px 1fr; } .tube { width: 120px; } }
</style>
