<script setup lang="ts">
import { computed } from "vue";

import type { Schemas } from "../api/client";

/** A drawing to scale in metres, from above (y to the left) or from the side (z up); `lit` is the part one looks for. */
const props = defineProps<{ drawing: Schemas["DrawingOut"]; lit?: string }>();
const found = computed(() => (props.lit ? props.drawing.shapes.filter((s) => s.part === props.lit && s.role !== "hair") : []));

const path = (points: number[][], closed: boolean) =>
  "M" + points.map(([x, y]) => `${x!.toFixed(3)} ${(-y!).toFixed(3)}`).join("L") + (closed ? "Z" : "");
</script>

<template>
  <g class="plan">
    <path v-for="(s, i) in drawing.shapes" :key="i" :d="path(s.points, s.closed)" :class="s.role" />
    <path v-for="(s, i) in found" :key="`lit${i}`" :d="path(s.points, s.closed)" class="lit" />
  </g>
</template>

<style scoped>
.plan path { stroke: var(--ink); stroke-width: 1.7; vector-effect: non-scaling-stroke; stroke-linejoin: round; fill: none; }
.plan .track, .plan .tool { fill: var(--track); }
.plan .body, .plan .steel { fill: var(--steel); }
.plan .cab { fill: var(--card); stroke-width: 2.2; }
.plan .panel { stroke-width: 1; }
.plan .hair { stroke-width: 0.7; opacity: 0.7; }
.plan .hidden { stroke-width: 1; stroke-dasharray: 3 4; }
.plan .ground { stroke-width: 3; }
.plan .lit { stroke: var(--here); stroke-width: 3; fill: color-mix(in srgb, var(--here) 14%, transparent); }
</style>
