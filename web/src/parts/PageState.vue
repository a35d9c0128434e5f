<script setup lang="ts">
import { useI18n } from "vue-i18n";

/** What a page shows before it has anything to show: it waits, it failed and why, or there is nothing yet. */
defineProps<{ says?: string | null; waits?: boolean; nothing?: string | undefined; lines?: number }>();
const { t } = useI18n();
</script>

<template>
  <p v-if="says" role="alert" class="card" data-test="failed">{{ says }}</p>
  <div v-else-if="waits" role="status" class="waits" data-test="waits">
    <span class="sr-only">{{ t("wait") }}</span>
    <div v-for="n in lines ?? 3" :key="n" class="card" aria-hidden="true"><i /><i /></div>
  </div>
  <p v-else-if="nothing" class="card quiet" data-test="none">{{ nothing }}</p>
</template>

<style scoped>
.waits { display: grid; gap: 12px; } .waits .card { min-height: 96px; display: grid; gap: 14px; align-content: center; } i { height: 14px; border-radius: 7px; background: var(--track); width: 62%; } i + i { width: 38%; }
</style>
