<script setup lang="ts">
import { computed, ref } from "vue";
import { useI18n } from "vue-i18n";

import type { Schemas } from "../api/client";
import { figure } from "../app/language";

/** How honestly it was walked: time taken against plan, and what was asked to be shown. Shown to the walker first. */
const props = defineProps<{ pace: Schemas["PaceOut"] }>();
const { t } = useI18n();
const open = ref(false);
const hurried = computed(() => props.pace.stations.filter((s) => s.hurried).map((s) => s.name));
const minutes = (s: number) => figure(s / 60, s < 600 ? 1 : 0);
const longest = computed(() => Math.max(1, ...props.pace.stations.map((s) => Math.max(s.planned_s, s.taken_s ?? 0))));
</script>

<template>
  <section class="card stack" data-test="pace">
    <button type="button" class="line" :aria-expanded="open" @click="open = !open">
      <span
        ><b>{{ t("pace.title") }}</b
        ><span class="says"
          >{{ t("pace.of", { taken: minutes(pace.taken_s), planned: minutes(pace.planned_s) }) }}
          {{ hurried.length ? t("pace.hurried", { names: hurried.join(", ") }) : t("pace.calm") }}</span
        >
        <span v-if="pace.together" class="says" data-test="together">{{ t("pace.together", { n: pace.together }) }}</span>
        <span v-if="pace.asks.length" class="says"
          >{{ t("pace.asked") }} {{ pace.asks.map((a) => t(a.shown ? "pace.shown" : "pace.notShown", { name: a.name })).join("; ") }}.</span
        ></span
      >
      <span class="quiet open">{{ open ? t("verdict.close") : t("verdict.why") }}</span>
    </button>
    <table v-if="open">
      <thead>
        <tr>
          <th>{{ t("pace.station") }}</th>
          <th class="num">{{ t("pace.planned") }}</th>
          <th class="num">{{ t("pace.taken") }}</th>
          <th aria-hidden="true" />
        </tr>
      </thead>
      <tbody>
        <tr v-for="s in pace.stations" :key="s.station" :class="{ hurried: s.hurried }">
          <td>{{ s.name }}</td>
          <td class="num">{{ t("pace.seconds", { s: s.planned_s }) }}</td>
          <td class="num">{{ s.taken_s === null ? "–" : t("pace.seconds", { s: Math.round(s.taken_s) }) }}</td>
          <td class="bars">
            <span class="plan" :style="{ width: `${(100 * s.planned_s) / longest}%` }" /><span
              class="took"
              :style="{ width: `${(100 * (s.taken_s ?? 0)) / longest}%` }" />
          </td>
        </tr>
      </tbody>
    </table>
    <p class="quiet">{{ t("pace.own") }}</p>
  </section>
</template>

<style scoped>
.line { display: flex; gap: 14px; width: 100%; align-items: center; justify-content: space-between; text-align: left; background: none; border: 0; cursor: pointer; min-height: 56px; padding: 0; }
.says { display: block; font-size: 17px; }
.open { text-decoration: underline; padding: 16px 6px; flex: none; }
table { border-collapse: collapse; width: 100%; font-size: 17px; }
th, td { text-align: left; padding: 6px 10px 6px 0; border-bottom: 1px solid var(--line); font-weight: 420; }
.num { text-align: right; white-space: nowrap; }
.bars { width: 34%; }
.bars span { display: block; height: 6px; border-radius: 3px; margin: 2px 0; }
.plan { background: var(--line); } .took { background: var(--deep); }
.hurried td { font-weight: 620; } .hurried .took { background: var(--here); }
</style>
