<script setup lang="ts">
import { computed } from "vue";

import { DRAWINGS } from "./choiceDrawings";

/** What a choice looks like at a place of that duty, for who knows the thing and not the word. The word stands beside it. */
const props = defineProps<{ attribute: string; choice: string; duty?: string; place?: string }>();
const strokes = computed(() => {
  const key = `${props.attribute}.${props.choice}`;
  return DRAWINGS[`${key}@${props.place}`] ?? DRAWINGS[`${key}@${props.duty}`] ?? DRAWINGS[key] ?? DRAWINGS[`${key}@wear`] ?? [];
});
</script>

<template>
  <svg v-if="strokes.length" class="choice" viewBox="0 0 64 48" aria-hidden="true" focusable="false">
    <path v-for="(s, i) in strokes" :key="i" :class="s[0]" :d="s[1]" />
  </svg>
</template>

<style scoped>
.choice { width: 84px; height: 63px; flex: none; }
path { fill: none; stroke: currentColor; stroke-width: 2; stroke-linecap: round; stroke-linejoin: round; }
.thin { stroke-width: 1.2; }
.dash { stroke-width: 1.2; stroke-dasharray: 3 3; }
.fill { fill: currentColor; stroke-width: 1; }
.wrong { stroke: var(--wrong, var(--here)); stroke-width: 3; }
.wrongFill { fill: var(--wrong, var(--here)); stroke: var(--wrong, var(--here)); stroke-width: 1; }
</style>
