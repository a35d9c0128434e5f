<script setup lang="ts">
import { computed } from "vue";

import MachinePlan from "../parts/MachinePlan.vue";
import type { RunNow } from "./useRun";

/** Where on the machine: a tap on its plan chooses the place that is nearest. The chips beside it say the same. */
const props = defineProps<{ run: RunNow; station: string }>();
const emit = defineEmits<{ pick: [station: string] }>();
const places = computed(() => Object.entries(props.run.station_places) as [string, [number, number]][]);
const box = computed(() => {
  const [x0, y0, x1, y1] = props.run.drawing.bounds;
  const xs = [x0, x1, ...places.value.map(([, p]) => p[0])],
    ys = [y0, y1, ...places.value.map(([, p]) => p[1])];
  const [a, b, c, d] = [Math.min(...xs) - 0.7, Math.min(...ys) - 0.7, Math.max(...xs) + 0.7, Math.max(...ys) + 0.7];
  return { a, d, w: c - a, h: d - b };
});
function tap(e: MouseEvent) {
  const svg = e.currentTarget as SVGSVGElement;
  const at = new DOMPoint(e.clientX, e.clientY).matrixTransform(svg.getScreenCTM()!.inverse());
  const off = ([x, y]: [number, number]) => Math.hypot(x - at.x, -y - at.y);
  const nearest = [...places.value].sort((p, q) => off(p[1]) - off(q[1]))[0];
  if (nearest) emit("pick", nearest[0]);
}
</script>

<template>
  <svg :viewBox="`${box.a} ${-box.d} ${box.w} ${box.h}`" aria-hidden="true" data-test="station-plan" @click="tap">
    <rect :x="box.a" :y="-box.d" :width="box.w" :height="box.h" class="touch" />
    <MachinePlan :drawing="run.drawing" />
    <circle v-for="[id, p] in places" :key="id" :cx="p[0]" :cy="-p[1]" :r="box.w / 44" :class="{ on: id === station }" />
  </svg>
</template>

<style scoped>
svg { width: 100%; max-height: 180px; cursor: pointer; } .touch { fill: transparent; } circle { fill: var(--card); stroke: var(--ink); stroke-width: 0.07; } .on { fill: var(--here); stroke: var(--here); }
</style>
