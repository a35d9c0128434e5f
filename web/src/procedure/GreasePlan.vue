<script setup lang="ts">
import { computed, ref, watch } from "vue";
import { useI18n } from "vue-i18n";

import { figure } from "../app/language";
import MachinePlan from "../parts/MachinePlan.vue";
import FoundAt from "./FoundAt.vue";
import type { RunNow, Step, UseRun } from "./useRun";
import type { Finding } from "../walkaround/useWalk";
import NumberField from "../parts/NumberField.vue";

/** Where this machine is greased, on its own plan: one place after the other, with strokes, or what is wrong there. */
const props = defineProps<{ step: Step; run: RunNow; r: UseRun }>();
const { t } = useI18n();
type Point = Step["points"][number];
const picked = ref("");
const found = ref<Point | null>(null);
/** What this device said of a place and the server has not answered yet. */
const unsent = computed(
  () => new Map(props.r.waiting.value.flatMap((e) => (e.what.kind === "greased" ? [[e.what.point, e.what.took] as const] : []))),
);
const took = (p: Point) => unsent.value.get(p.id) ?? p.took;
const current = computed(
  () => props.step.points.find((p) => p.id === picked.value) ?? props.step.points.find((p) => p.due && !took(p)) ?? null,
);
const strokes = ref(0);
watch(
  current,
  (p) => {
    strokes.value = p ? p.fittings * p.strokes : 0;
  },
  { immediate: true },
);
const box = computed(() => {
  const [x0, y0, x1, y1] = props.run.drawing.bounds;
  return `${x0 - 0.8} ${-y1 - 0.8} ${x1 - x0 + 1.6} ${y1 - y0 + 1.6}`;
});
const size = computed(() => Math.max(0.28, (props.run.drawing.bounds[2] - props.run.drawing.bounds[0]) / 26));
/** Dots that would cover one another are moved apart; a line leads to the place itself. */
const dots = computed(() => {
  const apart = size.value * 2.5;
  const all = props.step.points.flatMap((p, i) => (p.at ? [{ p, i, x: p.at[0], y: -p.at[1], x0: p.at[0], y0: -p.at[1] }] : []));
  for (let round = 0; round < 60; round++)
    for (const a of all)
      for (const b of all) {
        if (a.i >= b.i) continue;
        const dx = b.x - a.x,
          dy = b.y - a.y,
          d = Math.hypot(dx, dy);
        if (d >= apart) continue;
        // Two on one spot part along a line of their own, so that every time gives the same picture.
        const [ux, uy] = d > 1e-6 ? [dx / d, dy / d] : [Math.cos(b.i), Math.sin(b.i)];
        const push = (apart - d) / 2;
        a.x -= ux * push;
        a.y -= uy * push;
        b.x += ux * push;
        b.y += uy * push;
      }
  return all;
});
const left = computed(() => props.step.points.filter((p) => p.due && !took(p)).length);
async function say(p: Point, what: "greased" | "blocked" | "left", note = "") {
  picked.value = "";
  await props.r.add(
    {
      kind: "greased",
      point: p.id,
      took: what,
      strokes: what === "greased" ? strokes.value : 0,
      hours: props.run.machine.hour_meter,
      note,
    },
    p.heads,
  );
}
async function report(findings: Finding[]) {
  const p = found.value;
  if (!p) return;
  // The finding first: whatever happens in between, it is graded and a mechanic reads it.
  if (
    !(await props.r.add({
      kind: "answered",
      checkpoint: p.checkpoint,
      answer: "defect",
      findings,
      reason: "",
      amends: "",
      together: false,
    }))
  )
    return;
  found.value = null;
  await say(
    p,
    "blocked",
    findings
      .map((f) => f.note)
      .filter(Boolean)
      .join("; "),
  );
}
</script>

<template>
  <div class="stack" data-test="grease" :data-left="left">
    <svg :viewBox="box" role="group" :aria-label="t('run.greaseMap', left)">
      <MachinePlan :drawing="run.drawing" />
      <g
        v-for="d in dots"
        :key="d.p.id"
        class="point"
        :class="[`is-${took(d.p) ?? (d.p.due ? 'due' : 'rests')}`, { current: d.p.id === current?.id }]"
        @click="picked = d.p.id">
        <path :d="`M${d.x0} ${d.y0}L${d.x} ${d.y}`" class="lead" />
        <circle :cx="d.x0" :cy="d.y0" :r="size * 0.22" class="spot" />
        <g :transform="`translate(${d.x} ${d.y})`">
          <circle :r="size * 1.6" class="touch" />
          <circle :r="size" class="dot" />
          <text :font-size="size * 1.15" :y="size * 0.4">{{ d.i + 1 }}</text>
        </g>
      </g>
    </svg>
    <div v-if="current" class="one" :data-test="`point-${current.id}`">
      <p>
        <b>{{ step.points.indexOf(current) + 1 }}. {{ current.name }}</b>
        {{ t("run.fittings", { n: current.fittings, s: current.strokes }, current.fittings)
        }}<small
          >{{ current.last === null ? t("run.neverGreased") : t("run.lastGreased", { h: figure(current.last, 0) }) }} ·
          {{ t("run.every", { h: figure(current.every_h, 0) }) }}</small
        >
      </p>
      <div class="row wrap">
        <NumberField v-model="strokes" :min="1" :max="600" :step="1" :precision="0" :aria-label="t('run.strokes')" data-test="strokes" />
        <button type="button" class="button primary" data-test="greased" @click="say(current, 'greased')">
          {{ t("run.greasedIt", { n: strokes }) }}
        </button>
        <button type="button" class="button bad" data-test="blocked" @click="found = current">{{ t("run.blocked") }}</button>
        <button type="button" class="button" data-test="left-dry" @click="say(current, 'left')">{{ t("run.leftDry") }}</button>
      </div>
    </div>
    <ul>
      <li v-for="(p, i) in step.points" :key="p.id">
        <button type="button" :aria-pressed="p.id === current?.id" :class="`is-${took(p)}`" @click="picked = p.id">
          <b>{{ i + 1 }}</b><span>{{ p.name }}</span
          ><small>{{ t(`run.took.${took(p) ?? (p.due ? "due" : "rests")}`) }}</small>
        </button>
      </li>
    </ul>
    <FoundAt v-if="found" :checkpoint="found.checkpoint" :machine="run.machine.id" :r="r" @closed="found = null" @found="report" />
  </div>
</template>

<style scoped>
svg { width: 100%; max-height: 260px; } .row :deep(.el-input-number) { width: 150px; } .point { cursor: pointer; } .touch { fill: transparent; } .dot { fill: var(--card); stroke: var(--ink); stroke-width: 0.07; } text { text-anchor: middle; font-weight: 680; fill: var(--ink); }
.lead { stroke: var(--ink); stroke-width: 0.06; fill: none; } .spot { fill: var(--ink); }
.is-greased .dot { fill: var(--sound); stroke: var(--sound); } .is-greased text { fill: var(--on-grade); } .is-blocked .dot { fill: var(--hold); stroke: var(--hold); } .is-blocked text { fill: var(--on-grade); } .is-rests .dot { stroke: var(--soft); } .is-rests text { fill: var(--soft); } .is-left .dot { stroke-dasharray: 0.16 0.12; } .current .dot { stroke: var(--here); stroke-width: 0.16; }
.one p { display: flex; flex-wrap: wrap; gap: 4px 10px; margin: 0 0 8px; align-items: baseline; font-size: 20px; } small { color: var(--soft); font-size: 15px; } .bad { border-color: var(--hold); color: var(--hold); }
ul { list-style: none; padding: 0; margin: 0; display: grid; grid-template-columns: repeat(auto-fill, minmax(240px, 1fr)); gap: 6px; }
li button { display: grid; grid-template-columns: 28px 1fr auto; gap: 8px; align-items: center; width: 100%; min-height: var(--target); text-align: left; background: none; border: 1px solid var(--line); border-radius: 10px; padding: 4px 10px; cursor: pointer; line-height: 1.15; } li button[aria-pressed="true"] { border-color: var(--here); } li .is-greased small { color: var(--sound); } li .is-blocked small { color: var(--hold); font-weight: 620; }
@media (max-width: 800px) { svg { max-height: 210px; } ul { grid-template-columns: 1fr; } }
</style>
