<script setup lang="ts">
import { useElementSize } from "@vueuse/core";
import { computed, ref } from "vue";
import { useI18n } from "vue-i18n";

import type { Schemas } from "../api/client";
import MachinePlan from "../parts/MachinePlan.vue";
import MarkShape from "../parts/MarkShape.vue";
import type { Pin } from "./PlanMap.vue";
import { figure } from "../app/language";

/** The machine from one side with its heights, as one sees it standing there: from the left, the front is at the left. */
const props = defineProps<{
  walk: Schemas["WalkOut"];
  from: "left" | "right";
  pins: Pin[];
  spot?: { x: number; z: number; part?: string } | null;
  dots?: { id: string; x: number; z: number; on: boolean }[];
}>();
const { t } = useI18n();

const drawing = computed(() => props.walk.sides[props.from]);
/** Where something ahead by x stands in this view. */
const across = (x: number) => (props.from === "left" ? -x : x);
const bounds = computed(() => {
  const [x0, , x1, z1] = drawing.value.bounds;
  return { x0: x0 - 0.26 * (x1 - x0), x1: x1 + 0.4, z0: -0.75, z1: z1 + 0.35 };
});
const box = computed(
  () => `${bounds.value.x0} ${-bounds.value.z1} ${bounds.value.x1 - bounds.value.x0} ${bounds.value.z1 - bounds.value.z0}`,
);
const map = ref<SVGSVGElement | null>(null);
const { width, height } = useElementSize(map);
const metre = computed(() => {
  const b = bounds.value;
  return width.value ? Math.max((b.x1 - b.x0) / width.value, (b.z1 - b.z0) / height.value) : 0.012;
});
/** A line every metre up to the machine's top, and the height of each level one climbs to. */
const heights = computed(() => Array.from({ length: Math.floor(bounds.value.z1) }, (_, i) => i + 1));
const levels = computed(() => {
  const seen = new Map<string, number>();
  for (const s of props.walk.stations) if (s.height > 0) seen.set(s.level, Math.min(seen.get(s.level) ?? Infinity, s.height));
  // Levels at nearly the same height share a line of text each, the higher one above.
  let low = -Infinity;
  return [...seen]
    .map(([level, z]) => ({ level, z }))
    .sort((a, b) => a.z - b.z)
    .map((l) => {
      low = Math.max(l.z - 5 * metre.value, low + 17 * metre.value);
      return { ...l, text: low };
    });
});
</script>

<template>
  <svg ref="map" :viewBox="box" class="map" role="img" :aria-label="t(`walk.sideMap.${from}`, { name: walk.machine.name })">
    <g class="heights">
      <path v-for="h in heights" :key="h" :d="`M${bounds.x0} ${-h}H${bounds.x1}`" />
      <text v-for="h in heights" :key="-h" :x="bounds.x0 + 4 * metre" :y="-h - 3 * metre" :font-size="14.5 * metre">
        {{ t("walk.height", { z: h }) }}
      </text>
    </g>
    <MachinePlan :drawing="drawing" :lit="spot?.part" />
    <text :x="bounds.x1 - 8 * metre" :y="-bounds.z0 - 6 * metre" text-anchor="end" :font-size="15 * metre" class="from">
      {{ t(`walk.from.${from}`) }}
    </text>
    <g v-for="l in levels" :key="l.level" class="storey">
      <path :d="`M${bounds.x0 + 52 * metre} ${-l.z}h${9 * metre}`" />
      <text :x="bounds.x0 + 65 * metre" :y="-l.text" :font-size="14.5 * metre">{{ t(`level.${l.level}`) }}</text>
    </g>
    <circle v-for="d in dots ?? []" :key="d.id" :cx="across(d.x)" :cy="-d.z" :r="3.8 * metre" class="place" :class="{ on: d.on }" />
    <g v-if="spot">
      <path :d="`M${across(spot.x)} ${-spot.z}V0`" class="drop" />
      <circle :cx="across(spot.x)" :cy="-spot.z" :r="15 * metre" class="spot" />
      <text :x="across(spot.x) + 20 * metre" :y="-spot.z / 2" :font-size="16 * metre" class="how-high">
        {{ t("walk.height", { z: figure(spot.z, 1) }) }}
      </text>
    </g>
    <MarkShape v-for="p in pins" :key="p.checkpoint" :mark="p.mark" :x="across(p.x)" :y="-p.z" :r="11.7 * metre" />
  </svg>
</template>

<style scoped>
.map { width: 100%; height: 100%; display: block; flex: 1; min-height: 0; }
.heights path { stroke: var(--line); stroke-width: 1; vector-effect: non-scaling-stroke; }
.heights text { fill: var(--soft); }
.storey path { stroke: var(--deep); stroke-width: 2.4; vector-effect: non-scaling-stroke; }
.from { fill: var(--soft); font-weight: 640; }
.storey text { fill: var(--deep); font-weight: 640; }
.place { fill: var(--card); stroke: var(--ink); stroke-width: 1.3; vector-effect: non-scaling-stroke; }
.place.on { fill: var(--ink); }
.spot { fill: none; stroke: var(--here); stroke-width: 3; stroke-dasharray: 4 3; vector-effect: non-scaling-stroke; }
.drop { stroke: var(--here); stroke-width: 2; stroke-dasharray: 2 4; vector-effect: non-scaling-stroke; }
.how-high { fill: var(--here); font-weight: 680; paint-order: stroke; stroke: var(--card); stroke-width: 4px; vector-effect: non-scaling-stroke; }
</style>
