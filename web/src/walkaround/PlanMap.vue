<script setup lang="ts">
import { useElementSize } from "@vueuse/core";
import { computed, ref } from "vue";
import { useI18n } from "vue-i18n";

import type { Schemas } from "../api/client";
import MachinePlan from "../parts/MachinePlan.vue";
import MarkShape from "../parts/MarkShape.vue";
import type { Mark } from "../parts/marks";

export interface Pin { checkpoint: string; mark: Mark; x: number; y: number; earlier: boolean }

const props = defineProps<{
  walk: Schemas["WalkOut"];
  here: string;
  done: Set<string>;
  pins: Pin[];
  spot?: { x: number; y: number } | null;
}>();
const emit = defineEmits<{ go: [station: string] }>();
const { t } = useI18n();

const bounds = computed(() => {
  const [x0, y0, x1, y1] = props.walk.drawing.bounds;
  const xs = props.walk.stations.flatMap((s) => [s.at[0], ...s.line.map((p) => p[0]!)]);
  const ys = props.walk.stations.flatMap((s) => [s.at[1], ...s.line.map((p) => p[1]!)]);
  return { x0: Math.min(x0, ...xs) - 0.6, x1: Math.max(x1, ...xs) + 0.6, y0: Math.min(y0, ...ys) - 1, y1: Math.max(y1, ...ys) + 0.6 };
});
const box = computed(() => `${bounds.value.x0} ${-bounds.value.y1} ${bounds.value.x1 - bounds.value.x0} ${bounds.value.y1 - bounds.value.y0}`);
const map = ref<SVGSVGElement | null>(null);
const { width, height } = useElementSize(map);
/** Metres that one pixel shows: numbers and targets keep their size on a small screen. */
const metre = computed(() => {
  const b = bounds.value;
  return width.value ? Math.max((b.x1 - b.x0) / width.value, (b.y1 - b.y0) / height.value) : 0.012;
});
const size = computed(() => ({
  dot: Math.max(0.3, 12 * metre.value), text: Math.max(0.34, 14 * metre.value), touch: Math.max(0.52, 22 * metre.value),
  halo: Math.max(0.5, 19 * metre.value), mark: Math.max(0.2, 11.7 * metre.value), small: Math.max(0.28, 14 * metre.value),
}));
const hereAt = computed(() => props.walk.stations.findIndex((s) => s.id === props.here));
const line = (points: number[][]) => points.map(([x, y]) => `${x},${-y!}`).join(" ");
</script>

<template>
  <svg ref="map" :viewBox="box" class="map" role="group" :aria-label="t('walk.map', { name: walk.machine.name })">
    <MachinePlan :drawing="walk.drawing" />
    <g fill="none" aria-hidden="true">
      <polyline
        v-for="(s, i) in walk.stations" :key="s.id" :points="line(s.line)" class="leg"
        :class="{ walked: i <= hereAt, climb: s.level === 'deck' || s.level === 'cab' }"
      />
    </g>
    <g v-if="spot" aria-hidden="true"><circle :cx="spot.x" :cy="-spot.y" r="0.34" class="spot" /></g>
    <g
      v-for="(s, i) in walk.stations" :key="s.id" class="station" :class="{ here: s.id === here, done: done.has(s.id) }"
      tabindex="0" role="button" :aria-label="t('walk.station', { n: i + 1, name: s.name })" :aria-current="s.id === here || undefined"
      :transform="`translate(${s.at[0]} ${-s.at[1]})`"
      @click="emit('go', s.id)" @keydown.enter.prevent="emit('go', s.id)" @keydown.space.prevent="emit('go', s.id)"
    >
      <circle :r="size.touch" class="touch" />
      <circle v-if="s.id === here" :r="size.halo" class="halo" />
      <circle :r="size.dot" class="dot" />
      <text text-anchor="middle" :y="size.text * 0.36" :font-size="size.text">{{ i + 1 }}</text>
    </g>
    <g v-for="p in pins" :key="p.checkpoint" :opacity="p.earlier ? 0.9 : 1" pointer-events="none">
      <MarkShape :mark="p.mark" :x="p.x" :y="-p.y" :r="size.mark" />
    </g>
    <g :transform="`translate(${bounds.x1 - 2.5} ${-bounds.y0 - 0.2})`" aria-hidden="true" class="scale">
      <path d="M0 -.1V.1M0 0H2M2 -.1V.1" />
      <text x="1" y="-0.14" text-anchor="middle" :font-size="size.small">{{ t("walk.scale") }}</text>
    </g>
  </svg>
</template>

<style scoped>
.map { width: 100%; height: 100%; display: block; background-image: linear-gradient(var(--grid) 1px, transparent 1px), linear-gradient(90deg, var(--grid) 1px, transparent 1px); background-size: 48px 48px; touch-action: manipulation; }
.leg { stroke: var(--deep); stroke-width: 3; stroke-dasharray: 3 8; stroke-linecap: round; stroke-linejoin: round; vector-effect: non-scaling-stroke; }
.leg.walked { stroke-width: 5; stroke-dasharray: none; }
.leg.climb { stroke-width: 2; stroke-dasharray: 2 5; opacity: 0.6; }
.station { cursor: pointer; outline: none; }
.touch { fill: transparent; }
.dot { fill: var(--card); stroke: var(--deep); stroke-width: 2.4; vector-effect: non-scaling-stroke; }
.station text { fill: var(--deep); font-weight: 720; }
.done .dot { fill: var(--deep); }
.done text { fill: var(--on-deep); }
.here .dot { fill: var(--here); stroke: var(--here); }
.here text { fill: var(--on-grade); }
.halo { fill: var(--here-soft); stroke: var(--here); stroke-width: 2.5; vector-effect: non-scaling-stroke; }
.station:focus-visible .dot { stroke: var(--here); stroke-width: 6; }
.spot { fill: none; stroke: var(--here); stroke-width: 3; stroke-dasharray: 4 3; vector-effect: non-scaling-stroke; }
.scale path { stroke: var(--ink); stroke-width: 1.6; vector-effect: non-scaling-stroke; fill: none; }
.scale text { fill: var(--soft); }
</style>
