<script setup lang="ts">
import { computed } from "vue";
import { useI18n } from "vue-i18n";

import { useParked } from "../data/queries";
import MachinePlan from "../parts/MachinePlan.vue";
import type { RunNow } from "./useRun";

/** How this machine is parked, from its side: tool or body down, as this site does it. */
const props = defineProps<{ run: RunNow; says: string }>();
const { t } = useI18n();
const { data: drawing } = useParked(props.run.machine.id, props.run.run ?? "");
const box = computed(() => {
  if (!drawing.value) return "0 0 1 1";
  const [x0, y0, x1, y1] = drawing.value.bounds;
  return `${x0 - 0.5} ${-y1 - 0.5} ${x1 - x0 + 1} ${y1 - y0 + 1}`;
});
</script>

<template>
  <figure v-if="drawing" class="card" data-test="parked">
    <svg :viewBox="box" role="img" :aria-label="t('run.parked', { how: says })"><MachinePlan :drawing="drawing" /></svg>
    <figcaption>{{ says }}</figcaption>
  </figure>
</template>

<style scoped>
figure { margin: 0; padding: 10px; } svg { width: 100%; max-height: 240px; } figcaption { font-size: 16px; line-height: 1.25; }
</style>
