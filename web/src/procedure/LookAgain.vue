<script setup lang="ts">
import { useI18n } from "vue-i18n";

import type { RunNow } from "./useRun";

/** After a stop: what this machine needs to be looked at before it works on; the whole once-over is one tap away. */
defineProps<{ run: RunNow }>();
const { t } = useI18n();
</script>

<template>
  <section class="card stack" data-test="look-again">
    <h2 class="h3">{{ t("run.again") }}</h2>
    <ul v-if="run.again.length">
      <li v-for="a in run.again" :key="a.says">
        {{ a.says }}<small v-if="run.stations[a.station]">{{ run.stations[a.station] }}</small>
      </li>
    </ul>
    <p class="quiet">{{ t("run.againAlways") }}</p>
    <RouterLink
      class="button"
      :to="{ name: 'approach', params: { machine: run.machine.id }, query: { kind: 'once-over' } }"
      data-test="once-over"
      >{{ t("run.onceOver") }}</RouterLink
    >
  </section>
</template>

<style scoped>
ul { margin: 0; padding-left: 22px; } li { padding: 2px 0; } small { color: var(--soft); margin-left: 8px; } p { margin: 0; } .button { align-self: flex-start; }
</style>
