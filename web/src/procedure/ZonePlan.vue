<script setup lang="ts">
import { computed } from "vue";
import { useI18n } from "vue-i18n";

import MachinePlan from "../parts/MachinePlan.vue";
import type { RunNow } from "./useRun";

/** Where this machine pinches, crushes or strikes, on its own plan; nobody stands there. */
const props = defineProps<{ run: RunNow }>();
const { t } = useI18n();
const points = (outline: [number, number][]) => outline.map(([x, y]) => `${x.toFixed(2)},${(-y).toFixed(2)}`).join(" ");
const box = computed(() => {
  const all = props.run.zones.flatMap((z) => z.outline as [number, number][]);
  const [x0, y0, x1, y1] = props.run.drawing.bounds;
  const xs = [...all.map((p) => p[0]), x0, x1],
    ys = [...all.map((p) => p[1]), y0, y1];
  const [a, b, c, d] = [Math.min(...xs) - 0.4, Math.min(...ys) - 0.4, Math.max(...xs) + 0.4, Math.max(...ys) + 0.4];
  return `${a} ${-d} ${c - a} ${d - b}`;
});
</script>

<template>
  <figure class="card">
    <svg :viewBox="box" role="img" :aria-label="t('run.zones', { names: run.zones.map((z) => z.name).join(', ') })" data-test="zones">
      <defs>
        <pattern id="hatch" width="0.5" height="0.5" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
          <path d="M0 0V0.5" />
        </pattern>
      </defs>
      <polygon v-for="z in run.zones" :key="z.id" :points="points(z.outline as [number, number][])" />
      <MachinePlan :drawing="run.drawing" />
    </svg>
    <figcaption>
      <b>{{ t("run.nobody") }}</b> {{ run.zones.map((z) => z.name).join(" · ") }}
    </figcaption>
  </figure>
</template>

<style scoped>
figure { margin: 0; padding: 10px; } svg { width: 100%; max-height: 230px; } polygon { fill: url(#hatch); stroke: var(--hold); stroke-width: 0.09; stroke-dasharray: 0.35 0.25; }
pattern path { stroke: var(--hold); stroke-width: 0.09; opacity: 0.55; } figcaption { font-size: 16px; line-height: 1.25; }
</style>
