<script setup lang="ts">
import { useI18n } from "vue-i18n";

import { figure } from "../../app/language";

/** The cells of a battery, each a column that is raised and lowered. */
const model = defineModel<number[]>({ required: true });
const { t } = useI18n();
const LOW = 1.08,
  HIGH = 1.3;
const share = (v: number) => (Math.min(HIGH, Math.max(LOW, v)) - LOW) / (HIGH - LOW);
const set = (n: number, value: number) =>
  (model.value = model.value.map((v, k) => (k === n ? Number(Math.min(1.35, Math.max(1, value)).toFixed(3)) : v)));
function point(n: number, e: PointerEvent) {
  const box = (e.currentTarget as Element).getBoundingClientRect();
  (e.currentTarget as Element).setPointerCapture(e.pointerId);
  set(n, Math.round((LOW + (1 - (e.clientY - box.top) / box.height) * (HIGH - LOW)) / 0.005) * 0.005);
}
function key(n: number, e: KeyboardEvent) {
  const by = { ArrowUp: 0.005, ArrowDown: -0.005, PageUp: 0.02, PageDown: -0.02 }[e.key];
  if (!by) return;
  e.preventDefault();
  e.stopPropagation();
  set(n, model.value[n]! + by);
}
</script>

<template>
  <svg :viewBox="`0 0 ${model.length * 62 + 20} 200`" class="cells" role="group" :aria-label="t('reading.cells')" data-test="cells">
    <rect x="4" y="16" :width="model.length * 62 + 12" height="160" rx="10" class="case" />
    <g
      v-for="(v, n) in model"
      :key="n"
      role="slider"
      tabindex="0"
      :aria-label="t('reading.cell', { n: n + 1 })"
      :aria-valuemin="LOW"
      :aria-valuemax="HIGH"
      :aria-valuenow="v"
      :data-test="`cell-${n}`"
      @pointerdown="point(n, $event)"
      @pointermove="$event.buttons && point(n, $event)"
      @keydown="key(n, $event)">
      <rect :x="14 + n * 62" y="26" width="54" height="140" rx="6" class="well" />
      <rect :x="14 + n * 62" :y="26 + 140 * (1 - share(v))" width="54" :height="140 * share(v)" rx="6" class="acid" />
      <path :d="`M${14 + n * 62} ${26 + 140 * (1 - share(v))}h54`" class="line" />
      <text :x="41 + n * 62" y="194">{{ figure(v, 3) }}</text>
    </g>
  </svg>
</template>

<style scoped>
.cells { width: 100%; max-width: 420px; user-select: none; }
.case { fill: var(--track); stroke: var(--ink); stroke-width: 2; } .well { fill: var(--paper); stroke: var(--line); } .acid { fill: var(--watch); opacity: 0.3; }
.line { stroke: var(--here); stroke-width: 5; } g { touch-action: none; cursor: ns-resize; } g:focus-visible { outline: none; } g:focus-visible .well { stroke: var(--deep); stroke-width: 4; }
text { font-size: 16px; text-anchor: middle; fill: var(--ink); }
</style>
