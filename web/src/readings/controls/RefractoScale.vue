<script setup lang="ts">
import { useDragged } from "../useDragged";

/** The field of a refractometer: where the blue ends is dragged on the scale of freeze points. */
defineProps<{ name: string }>();
const model = defineModel<number>({ required: true });
const LOW = -60,
  HIGH = 0,
  TOP = 36,
  BOTTOM = 204;
const toY = (c: number) => BOTTOM - ((HIGH - c) / (HIGH - LOW)) * (BOTTOM - TOP);
const { on } = useDragged(
  model,
  () => ({ low: LOW, high: HIGH, step: 1 }),
  { width: 240, height: 240 },
  (_, y) => HIGH - ((BOTTOM - y) / (BOTTOM - TOP)) * (HIGH - LOW),
);
</script>

<template>
  <svg
    viewBox="0 0 240 240"
    class="field"
    role="slider"
    tabindex="0"
    :aria-label="name"
    :aria-valuemin="LOW"
    :aria-valuemax="HIGH"
    :aria-valuenow="model"
    :aria-valuetext="`${model} °C`"
    data-test="refracto"
    v-on="on">
    <clipPath id="lens"><circle cx="120" cy="120" r="108" /></clipPath>
    <circle cx="120" cy="120" r="108" class="lens" />
    <rect x="0" y="0" width="240" :height="toY(model)" clip-path="url(#lens)" class="dark" />
    <g v-for="c in [0, -10, -20, -30, -40, -50, -60]" :key="c">
      <path :d="`M108 ${toY(c)}H132`" class="tick" />
      <text x="140" :y="toY(c) + 5">{{ c }}</text>
    </g>
    <path :d="`M120 ${TOP}V${BOTTOM}`" class="tick" />
    <path :d="`M16 ${toY(model)}H224`" class="edge" />
    <circle cx="40" :cy="toY(model)" r="17" class="grip" />
    <circle cx="120" cy="120" r="108" class="rim" />
  </svg>
</template>

<style scoped>
.field { width: 100%; max-width: 280px; touch-action: none; cursor: ns-resize; } .lens { fill: var(--card); } .dark { fill: var(--watch); opacity: 0.45; } .rim { fill: none; stroke: var(--ink); stroke-width: 3; }
.tick { stroke: var(--ink); stroke-width: 1.6; } .edge { stroke: var(--here); stroke-width: 4; } .grip { fill: var(--here); } text { font-size: 15px; fill: var(--ink); }
</style>
