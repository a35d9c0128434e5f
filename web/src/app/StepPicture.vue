<script setup lang="ts">
import { DRAWINGS } from "./emergencyDrawings";

/** What a step of an emergency card asks for, drawn; its words stand beside it. */
defineProps<{ card: string; step: number }>();
</script>

<template>
  <svg viewBox="0 0 120 96" class="step" aria-hidden="true" :data-test="`picture-${card}-${step}`">
    <g
      v-for="(p, n) in DRAWINGS[card]?.[step] ?? []"
      :key="n"
      :transform="`translate(${p.x} ${p.y}) rotate(${p.turn}) scale(${p.scale} ${Math.abs(p.scale)})`">
      <path v-for="[kind, d] in p.piece" :key="d" :d="d" :class="kind" />
    </g>
  </svg>
</template>

<style scoped>
.step { width: 100%; display: block; background: var(--paper); border-radius: 8px; }
path { fill: none; stroke: var(--ink); stroke-width: 2.4; stroke-linecap: round; stroke-linejoin: round; }
.b { fill: var(--card); } .l { stroke-width: 3.6; } .h { stroke-width: 6; } .t { stroke-width: 1.6; }
.m { stroke: var(--here); stroke-width: 4.4; } .n { stroke: var(--hold); stroke-width: 5; } .g { stroke: var(--sound); stroke-width: 5; } .f { fill: var(--hold); stroke: none; } .o { fill: var(--oil); stroke-width: 1.6; }
</style>
