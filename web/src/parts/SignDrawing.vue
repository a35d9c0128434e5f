<script setup lang="ts">
/** A small drawing of what something is about: its lines by kind; its name stands beside it. */
defineProps<{ sign: readonly (readonly [kind: string, d: string])[]; width?: number }>();
</script>

<template>
  <svg viewBox="0 0 48 42" :width="width ?? 48" aria-hidden="true" class="sign">
    <path v-for="[kind, d] in sign" :key="d" :d="d" :class="kind" />
  </svg>
</template>

<style scoped>
.sign { flex: none; } path { fill: none; stroke: currentColor; stroke-width: 1.8; stroke-linecap: round; stroke-linejoin: round; }
.f { fill: var(--oil); stroke-width: 1.2; } .m { stroke: var(--here); stroke-width: 2.8; } .w { stroke: var(--hold); stroke-width: 3; } .t { stroke-width: 1.2; }
</style>
