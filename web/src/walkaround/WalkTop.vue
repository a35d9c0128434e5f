<script setup lang="ts">
import { useIntervalFn } from "@vueuse/core";
import { computed, ref } from "vue";
import { useI18n } from "vue-i18n";

import type { Schemas } from "../api/client";
import ConnectionState from "../app/ConnectionState.vue";
import { figure } from "../app/language";
import { stopwatch } from "../app/times";
import type { useLap } from "./useLap";
import type { useWalk } from "./useWalk";

/** The machine, what the approach said, how the connection is, and how far the walk has come. */
const props = defineProps<{ walk: Schemas["WalkOut"]; w: ReturnType<typeof useWalk>; lap: ReturnType<typeof useLap> }>();
const { t } = useI18n();
const passed = ref(0);
const planned = computed(() => props.walk.planned_s);
const conditions = computed(() => props.w.conditions.value);
const hourMeter = computed(() => props.w.opened.value?.hour_meter ?? 0);
const of = computed(() => props.lap.stations.value.length);
useIntervalFn(
  () => {
    const begun = props.w.openedAt.value;
    passed.value = begun ? (Date.now() - new Date(begun).getTime()) / 1000 : 0;
  },
  1000,
  { immediateCallback: true },
);
</script>

<template>
  <header class="top">
    <RouterLink to="/" class="button plain back" :aria-label="t('walk.toYard')">←</RouterLink>
    <h1>
      {{ walk.machine.name }}<span class="family"> · {{ walk.machine.family }}</span>
    </h1>
    <dl>
      <div>
        <dt>{{ t("approach.hour_meter") }}</dt>
        <dd class="figure">{{ figure(hourMeter, 1) }}</dd>
      </div>
      <div>
        <dt>{{ t("walk.yardNow") }}</dt>
        <dd class="figure">
          {{ t("walk.weather", { c: String(conditions.air_c).replace("-", "−") })
          }}<template v-if="conditions.dark"> · {{ t("walk.dark") }}</template
          ><template v-if="conditions.rain"> · {{ t("walk.rain") }}</template>
        </dd>
      </div>
    </dl>
    <ConnectionState />
    <div class="pace">
      <span class="quiet">{{ t("walk.planned", { min: Math.round(planned / 60) }) }}</span>
      <b
        ><span>{{ stopwatch(passed) }}</span> {{ t("walk.at", { n: lap.at.value + 1, of }) }}</b
      >
      <svg viewBox="0 0 150 14" width="150" height="14" aria-hidden="true">
        <rect y="4" width="150" height="7" rx="3.5" class="all" />
        <rect y="4" :width="150 * (lap.done.value.size / of)" height="7" rx="3.5" class="part" />
        <rect :x="Math.min(147, 150 * (passed / Math.max(1, planned)))" width="3" height="14" class="pointer" />
      </svg>
    </div>
  </header>
</template>

<style scoped>
.top { grid-column: 1 / -1; display: flex; align-items: center; gap: 22px; padding: 0 24px 0 6px; border-bottom: 2px solid var(--ink); white-space: nowrap; }
.top h1 { font-size: 25px; }
.back { font-size: 26px; padding: 0 10px; }
dl { display: flex; gap: 26px; margin: 0; }
dt { font-size: 15px; color: var(--soft); }
dd { margin: 0; font-size: 21px; line-height: 1.1; }
.pace { margin-left: auto; display: grid; grid-template-columns: auto auto; gap: 0 14px; align-items: center; text-align: right; }
.pace .quiet { font-size: 15px; }
.pace b { grid-row: 2; grid-column: 1; font-size: 18px; line-height: 1.1; }
.pace svg { grid-row: 1 / 3; grid-column: 2; }
.all { fill: var(--line); } .part { fill: var(--deep); } .pointer { fill: var(--here); }
@media (max-width: 1000px) {
  .top { flex-wrap: wrap; gap: 2px 12px; padding: 6px 12px 6px 2px; position: sticky; top: 0; background: var(--paper); z-index: 3; }
  .top h1 { font-size: 21px; } .family, .top dl { display: none; }
  .pace { flex: 1; } .pace svg { width: 90px; }
}
@media (max-width: 700px) {
  .top { flex-wrap: nowrap; gap: 8px; min-height: 60px; padding: 0 10px 0 0; }
  .pace { flex: none; display: block; } .pace .quiet, .pace svg { display: none; } .pace b { font-size: 16px; }
  /* What is not as usual is said in full. */
  .top :deep(.state.here span:not(.dot)) { position: absolute; width: 1px; height: 1px; overflow: hidden; clip-path: inset(50%); }
  .top :deep(.state:not(.here)) { white-space: normal; font-size: 14px; line-height: 1.1; }
}
</style>
