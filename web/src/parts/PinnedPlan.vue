<script setup lang="ts">
import { computed } from "vue";

import type { Schemas } from "../api/client";
import MachinePlan from "./MachinePlan.vue";
import MarkShape from "./MarkShape.vue";
import { viewBox } from "./drawing";
import type { Mark } from "./marks";

/** A machine from above with what is to be seen pinned where it is: a mark, or a number that stands in the list beside it. */
export interface Pin {
  key: string;
  at: number[] | null;
  title: string;
  mark?: Mark;
  n?: number;
}
const props = defineProps<{ drawing: Schemas["DrawingOut"]; pins: Pin[]; label: string }>();
const emit = defineEmits<{ pick: [key: string] }>();
/** Half a mark's width, m; two at one place stand beside each other. */
const R = 0.34;
const placed = computed(() => {
  const beside = new Map<string, number>();
  return props.pins.flatMap((p) => {
    if (!p.at) return [];
    const spot = `${p.at[0]!.toFixed(1)} ${p.at[1]!.toFixed(1)}`;
    const nth = beside.get(spot) ?? 0;
    beside.set(spot, nth + 1);
    return [{ ...p, x: p.at[0]! + nth * 2 * R, y: -p.at[1]! }];
  });
});
</script>

<template>
  <svg class="drawing" :viewBox="viewBox(drawing, 0.5)" role="img" :aria-label="label">
    <MachinePlan :drawing="drawing" />
    <g v-for="p in placed" :key="p.key" class="pin" :data-test="`pin-${p.key}`" @click="emit('pick', p.key)">
      <title>{{ p.title }}</title>
      <MarkShape v-if="p.mark" :mark="p.mark" :x="p.x" :y="p.y" :r="R" />
      <template v-else>
        <circle :cx="p.x" :cy="p.y" :r="R" class="spot" />
        <text :x="p.x" :y="p.y + R * 0.42" text-anchor="middle" :font-size="R * 1.25" font-weight="720">{{ p.n }}</text>
      </template>
    </g>
  </svg>
</template>

<style scoped>
.drawing { width: 100%; max-height: 300px; }
.pin { cursor: pointer; }
.spot { fill: var(--here); stroke: var(--card); stroke-width: 1.5; vector-effect: non-scaling-stroke; }
text { fill: var(--card); }
</style>
