<script setup lang="ts">
import { ref } from "vue";
import { useI18n } from "vue-i18n";

import { stepsOf } from "../app/emergency";
import { useSession } from "../app/session";
import { useSchools } from "../data/queries";
import JobDrawing from "./JobDrawing.vue";

/** Small jobs beside the run, each in the order that keeps people whole. */
const { t } = useI18n();
const JOBS = [
  "attachment",
  "carry",
  "slope",
  "fill",
  "drain",
  "climb",
  "stops",
  "approach",
  "service",
  "support",
  "press",
  "skip",
  "air",
] as const;
const open = ref("");
const session = useSession();
/** How this site does it, for who is signed in; else as is usual. */
const { data: schools } = useSchools(() => session.person !== null);
const key = (job: string) =>
  job === "air" && schools.value?.find((s) => s.id === "air-element")?.choice === "replace" ? "airReplace" : job;
</script>

<template>
  <div class="page stack">
    <h1>{{ t("jobs.title") }}</h1>
    <p class="quiet">{{ t("caution") }}</p>
    <section v-for="j in JOBS" :key="j" class="card">
      <h2>
        <button type="button" class="title" :aria-expanded="open === j" :data-test="`job-${j}`" @click="open = open === j ? '' : j">
          {{ t(`jobs.${key(j)}.title`) }}
        </button>
      </h2>
      <div v-if="open === j" class="opened">
        <ol>
          <li v-for="s in stepsOf(t(`jobs.${key(j)}.steps`))" :key="s">{{ s }}</li>
        </ol>
        <JobDrawing :job="key(j)" />
      </div>
    </section>
  </div>
</template>

<style scoped>
.card { padding: 0; } .title { width: 100%; min-height: 64px; text-align: left; background: none; border: 0; padding: 8px 16px; font-weight: 640; font-size: 20px; cursor: pointer; }
.opened { display: grid; grid-template-columns: minmax(0, 1fr) minmax(0, 420px); gap: 12px; padding: 0 16px 16px 0; align-items: start; } ol { margin: 0; padding: 0 18px 0 44px; font-size: 20px; line-height: 1.4; }
@media (max-width: 800px) { .opened { grid-template-columns: 1fr; padding-left: 16px; } ol { padding-left: 28px; } } li { padding: 3px 0; }
</style>
