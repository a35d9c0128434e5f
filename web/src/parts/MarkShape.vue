<script setup lang="ts">
import { computed } from "vue";

import { marks, outlinePath, type Mark } from "./marks";

const props = withDefaults(defineProps<{ mark: Mark; x?: number; y?: number; r?: number }>(), { x: 0, y: 0, r: 14 });
const spec = computed(() => marks[props.mark]);
const hollow = computed(() => spec.value.outline === "dashed" || spec.value.outline === "ring");
</script>

<template>
  <g :transform="`translate(${x} ${y})`" :style="{ color: `var(${spec.colour})` }">
    <path
      :d="outlinePath(spec.outline)"
      :transform="`scale(${r})`"
      vector-effect="non-scaling-stroke"
      :fill="hollow ? 'var(--card)' : 'currentColor'"
      stroke="currentColor"
      stroke-width="2"
      :stroke-dasharray="spec.outline === 'dashed' ? '4 3' : undefined" />
    <text
      text-anchor="middle"
      :y="r * 0.42 + (spec.outline === 'house' ? r * 0.1 : 0)"
      :font-size="r * 1.2"
      font-weight="750"
      :fill="hollow ? 'currentColor' : 'var(--on-grade)'"
      >{{ spec.letter }}</text
    >
  </g>
</template>
