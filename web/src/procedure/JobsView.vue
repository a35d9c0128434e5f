<script setup lang="ts">
import { ref } from "vue";
import { useI18n } from "vue-i18n";

import { stepsOf } from "../app/emergency";

/** Small jobs beside the run, each in the order that keeps people whole. */
const { t } = useI18n();
const JOBS = ["attachment", "carry", "slope", "fill", "drain", "climb", "stops", "approach", "service", "air"] as const;
const open = ref("");
</script>

<template>
  <div class="page stack">
    <h1>{{ t("jobs.title") }}</h1>
    <p class="quiet">{{ t("caution") }}</p>
    <section v-for="j in JOBS" :key="j" class="card">
      <h2><button type="button" class="title" :aria-expanded="open === j" :data-test="`job-${j}`" @click="open = open === j ? '' : j">{{ t(`jobs.${j}.title`) }}</button></h2>
      <ol v-if="open === j"><li v-for="s in stepsOf(t(`jobs.${j}.steps`))" :key="s">{{ s }}</li></ol>
    </section>
  </div>
</template>

<style scoped>
.card { padding: 0; } .title { width: 100%; min-height: 64px; text-align: left; background: none; border: 0; padding: 8px 16px; font-weight: 640; font-size: 20px; cursor: pointer; }
ol { margin: 0; padding: 0 18px 16px 44px; font-size: 20px; line-height: 1.4; } li { padding: 3px 0; }
</style>
