<script setup lang="ts">
import type { Schemas } from "../api/client";

/** A drawing to scale in metres, from above (y to the left) or from the side (z up). */
defineProps<{ drawing: Schemas["DrawingOut"] }>();

const path = (points: number[][], closed: boolean) =>
  "M" + points.map(([x, y]) => `${x!.toFixed(3)} ${(-y!).toFixed(3)}`).join("L") + (closed ? "Z" : "");
</script>

<template>
  <g class="plan">
    <path v-for="(s, i) in drawing.shapes" :key="i" :d="path(s.points, s.closed)" :class="s.role" />
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
</style>
