<script setup lang="ts">
import { useI18n } from "vue-i18n";

import type { Schemas } from "../api/client";
import GradeMark from "../parts/GradeMark.vue";
import SignDrawing from "../parts/SignDrawing.vue";
import { LIMIT_SIGNS } from "./limitSigns";

/** The limits that a machine may work within, each as it looks and as it is said. */
defineProps<{ limits: string[]; signs?: Schemas["LimitSign"][][] }>();
const { t } = useI18n();
</script>

<template>
  <section class="card stack" data-test="limits">
    <h2 class="h3">{{ t("verdict.limits") }}</h2>
    <p v-for="(l, i) in limits" :key="l" class="limit">
      <SignDrawing v-for="s in signs?.[i]" :key="s" :sign="LIMIT_SIGNS[s]" :width="64" />
      <GradeMark v-if="!signs?.[i]?.length" mark="limit" :size="40" silent />
      <span>{{ l }}</span>
    </p>
  </section>
</template>

<style scoped>
.limit { display: flex; gap: 12px; align-items: center; }
</style>
