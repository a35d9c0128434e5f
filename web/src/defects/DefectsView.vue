<script setup lang="ts">
import { ElOption, ElSelect } from "element-plus";
import { computed, ref } from "vue";
import { useI18n } from "vue-i18n";

import { inLanguage } from "../api/client";
import { useDefects, useSays, useTold, useWithin } from "../data/queries";
import PageState from "../parts/PageState.vue";
import DefectCard from "./DefectCard.vue";
import WithinCard from "./WithinCard.vue";

/** What is open on the machines, what holds one first; for who repairs it and who answers for it. */
const props = defineProps<{ machine?: string; defect?: string }>();
const STAGES = ["reported", "seen", "in-repair", "repaired"] as const;
const { t } = useI18n();
const told = useTold();
const machine = ref(props.machine ?? "");
const duty = ref("");
const stage = ref<(typeof STAGES)[number] | "">("");
const picked = computed(() => ({
  machine: machine.value || undefined,
  duty: duty.value || undefined,
  stage: stage.value || undefined,
  defect: props.defect,
}));
const { data, error, hasNextPage, isFetchingNextPage, fetchNextPage } = useDefects(picked);
const says = useSays(error);
const first = computed(() => data.value?.pages[0] ?? null);
const all = computed(() => data.value?.pages.flatMap((page) => page.defects) ?? []);
const { data: withins } = useWithin();
const within = computed(() =>
  props.defect || duty.value || stage.value ? [] : (withins.value ?? []).filter((w) => !machine.value || w.machine === machine.value),
);
const lowered = computed(() => all.value.filter((d) => d.lowered).length);
</script>

<template>
  <div class="page stack">
    <div class="row spread wrap">
      <h1>{{ t("defects.title") }}</h1>
      <a class="button" :href="inLanguage('/api/defects.csv')" download data-test="csv">{{ t("defects.csv") }}</a>
    </div>
    <PageState :says="says" :waits="!data" :lines="5" />
    <p v-if="first" data-test="sum">
      <b>{{ t("defects.sum", { n: first.count ?? 0 }) }}</b> {{ first.holds ? t("defects.holds", first.holds) : t("defects.noHold") }}
      <b v-if="lowered" class="lowered" data-test="lowered">{{ t("defects.lowered", { n: lowered }) }}</b>
    </p>
    <div v-if="!defect" class="row wrap">
      <ElSelect v-model="machine" class="pick" :aria-label="t('defects.machine')" :placeholder="t('defects.allMachines')"
        ><ElOption value="" :label="t('defects.allMachines')" /><ElOption
          v-for="m in first?.machines"
          :key="m.id"
          :value="m.id"
          :label="m.name"
      /></ElSelect>
      <ElSelect v-model="duty" class="pick" :aria-label="t('defects.duty')" :placeholder="t('defects.allDuties')"
        ><ElOption value="" :label="t('defects.allDuties')" /><ElOption
          v-for="d in first?.duties"
          :key="d.id"
          :value="d.id"
          :label="d.name"
      /></ElSelect>
      <ElSelect v-model="stage" class="pick" :aria-label="t('defects.how')" :placeholder="t('defects.allStages')"
        ><ElOption value="" :label="t('defects.allStages')" /><ElOption
          v-for="s in STAGES"
          :key="s"
          :value="s"
          :label="t(`defects.stage.${s}`)"
      /></ElSelect>
    </div>
    <p v-else-if="first && !all.length" data-test="closed">{{ t("defects.closed") }}</p>
    <WithinCard v-for="w in within" :key="w.machine" :within="w" @changed="told.defects" />
    <DefectCard v-for="d in all" :key="d.id" :defect="d" :with-machine="true" @changed="told.defects" />
    <p v-if="first && !all.length && !defect" class="quiet">{{ t("defects.none") }}</p>
    <button
      v-if="hasNextPage && !defect"
      class="button more"
      type="button"
      :disabled="isFetchingNextPage"
      data-test="more"
      @click="fetchNextPage()">
      {{ t("defects.more") }}
    </button>
  </div>
</template>

<style scoped>
.lowered { border-left: 5px solid var(--hold); padding-left: 10px; }
.pick { width: 240px; }
@media (max-width: 800px) { .pick { width: 100%; } }
</style>
