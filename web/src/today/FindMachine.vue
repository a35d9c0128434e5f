<script setup lang="ts">
import { computed, ref } from "vue";
import { useI18n } from "vue-i18n";

import type { Schemas } from "../api/client";
import GradeMark from "../parts/GradeMark.vue";

/** A machine by its number, as it stands on its label. */
const props = defineProps<{ machines: Schemas["YardMachineOut"][]; none: boolean }>();
const MOST = 8;
const { t } = useI18n();
const words = ref("");
const bare = (text: string) => text.toLowerCase().replace(/[\s-]+/g, "");
const found = computed(() => {
  const asked = bare(words.value);
  if (!asked) return [];
  const has = (m: Schemas["YardMachineOut"]) =>
    bare(`${m.machine.name} ${m.machine.id} ${m.machine.maker} ${m.machine.model} ${m.machine.family}`);
  return props.machines.filter((m) => has(m).includes(asked));
});
</script>

<template>
  <div class="stack find">
    <label
      ><span>{{ none ? t("today.none") : t("today.other") }}</span
      ><input v-model="words" type="search" autocomplete="off" :placeholder="t('today.number')" data-test="find-machine"
    /></label>
    <div v-if="words.trim()" class="chips" role="status">
      <RouterLink
        v-for="m in found.slice(0, MOST)"
        :key="m.machine.id"
        class="button"
        :data-test="`found-${m.machine.id}`"
        :to="{ name: 'approach', params: { machine: m.machine.id } }"
        ><GradeMark :mark="m.go" :size="30" silent /><span
          >{{ m.machine.name }} <span class="quiet">{{ m.machine.model }}</span></span
        ></RouterLink
      >
      <p v-if="!found.length">{{ t("today.noSuch") }}</p>
      <p v-else-if="found.length > MOST" class="quiet">{{ t("today.more", found.length - MOST) }}</p>
    </div>
    <p v-else class="quiet">{{ t("today.label") }}</p>
  </div>
</template>

<style scoped>
.find { gap: 8px; }
label { display: grid; gap: 6px; font-weight: 560; max-width: 460px; }
input { min-height: 64px; border: 2px solid var(--ink); border-radius: 12px; padding: 0 16px; font: inherit; font-size: 22px; background: var(--card); color: var(--ink); width: 100%; }
</style>
