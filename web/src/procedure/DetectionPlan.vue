<script setup lang="ts">
import { computed } from "vue";
import { useI18n } from "vue-i18n";

import MachinePlan from "../parts/MachinePlan.vue";
import type { RunNow } from "./useRun";

/** What the person detection was tried on, camera by camera and zone by zone; a person walks into the one that is on. */
const props = defineProps<{ run: RunNow; step: string; seen: string[] }>();
const { t } = useI18n();
type Field = RunNow["detection"][number];
const points = (f: Field) => f.outline.map(([x, y]) => `${x.toFixed(2)},${(-y).toFixed(2)}`).join(" ");
const tried = (f: Field) =>
  f.step === props.step ? props.seen.includes(f.part) : props.run.steps.find((s) => s.id === f.step)?.mark === "done";
const left = computed(() => props.run.detection.filter((f) => !tried(f)).length);
const box = computed(() => {
  const all = props.run.detection.flatMap((f) => f.outline as [number, number][]);
  const [x0, y0, x1, y1] = props.run.drawing.bounds;
  const xs = [...all.map((p) => p[0]), x0, x1],
    ys = [...all.map((p) => p[1]), y0, y1];
  const [a, b, c, d] = [Math.min(...xs) - 1.2, Math.min(...ys) - 1.2, Math.max(...xs) + 1.2, Math.max(...ys) + 1.2];
  return `${a} ${-d} ${c - a} ${d - b}`;
});
/** Where the second person comes from: the middle of the far edge of the outer zone that is on. */
const person = computed(() => {
  const outer = props.run.detection.find((f) => f.step === props.step && f.part === "outer");
  if (!outer) return null;
  const far = outer.outline.slice(outer.outline.length / 2),
    [x, y] = far[Math.floor(far.length / 2)]!;
  return { x, y: -y, turn: (Math.atan2(y, x) * 180) / Math.PI };
});
</script>

<template>
  <figure class="card">
    <svg :viewBox="box" role="img" :aria-label="t('run.detection', { n: left })" data-test="detection" :data-left="left">
      <polygon
        v-for="f in run.detection"
        :key="f.step + f.part"
        :points="points(f)"
        :class="[f.part, { tried: tried(f), on: f.step === step }]" />
      <MachinePlan :drawing="run.drawing" />
      <g v-if="person" :transform="`translate(${person.x} ${person.y}) rotate(${-person.turn})`" class="person">
        <ellipse cx="0.55" rx="0.34" ry="0.6" />
        <circle cx="0.5" r="0.28" />
        <path d="M-0.1 0H-1.6M-1.1 -0.4L-1.6 0L-1.1 0.4" />
      </g>
    </svg>
    <figcaption>
      <b>{{ left ? t("run.detectionLeft", left) : t("run.detectionAll") }}</b> {{ t("run.detectionKey") }}
    </figcaption>
  </figure>
</template>

<style scoped>
figure { margin: 0; padding: 10px; } svg { width: 100%; max-height: 330px; } figcaption { font-size: 16px; line-height: 1.25; }
polygon { fill: none; stroke: var(--soft); stroke-width: 0.1; stroke-dasharray: 0.45 0.35; } .inner { stroke-width: 0.18; } .on { stroke: var(--here); stroke-width: 0.22; }
.tried { fill: var(--sound); fill-opacity: 0.22; stroke: var(--sound); stroke-dasharray: none; }
.person { fill: var(--ink); stroke: none; } .person path { fill: none; stroke: var(--ink); stroke-width: 0.2; } @media (max-width: 800px) { svg { max-height: 210px; } } .person circle { fill: var(--paper); stroke: var(--ink); stroke-width: 0.14; }
</style>
