<script setup lang="ts">
import { ElOption, ElSelect } from "element-plus";
import { computed, ref } from "vue";
import { useI18n } from "vue-i18n";

import { inLanguage } from "../api/client";
import { useDefects, useSays, useTold, useWithin } from "../data/queries";
import DefectCard from "./DefectCard.vue";
import WithinCard from "./WithinCard.vue";

/** What is open on the machines, what holds one first; for who repairs it and who answers for it. */
const props = defineProps<{ machine?: string; defect?: string }>();
const { t } = useI18n();
const told = useTold();
const machine = ref(props.machine ?? "");
const duty = ref("");
const stage = ref("");
const { data, error } = useDefects();
const says = useSays(error);
const all = computed(() => data.value ?? []);
const machines = computed(() => [...new Map(all.value.map((d) => [d.machine, d.machine_name])).entries()].sort((a, b) => a[1].localeCompare(b[1])));
const duties = computed(() => [...new Map(all.value.filter((d) => d.duty).map((d) => [d.duty_id, d.duty])).entries()].sort((a, b) => a[1].localeCompare(b[1])));
const shown = computed(() => all.value.filter((d) => (!machine.value || d.machine === machine.value) && (!duty.value || d.duty_id === duty.value) && (!stage.value || d.stage === stage.value) && (!props.defect || d.id === props.defect)));
const holds = computed(() => new Set(all.value.filter((d) => d.grade === "hold").map((d) => d.machine)).size);
const { data: withins } = useWithin();
const within = computed(() => (props.defect || duty.value || stage.value ? [] : (withins.value ?? []).filter((w) => !machine.value || w.machine === machine.value)));
const lowered = computed(() => all.value.filter((d) => d.lowered).length);
const STAGES = ["reported", "seen", "in-repair", "repaired"] as const;
</script>

<template>
  <div class="page stack">
    <div class="row spread wrap">
      <h1>{{ t("defects.title") }}</h1>
      <a class="button" :href="inLanguage('/api/defects.csv')" download data-test="csv">{{ t("defects.csv") }}</a>
    </div>
    <p v-if="says" role="alert">{{ says }}</p>
    <p v-if="data" data-test="sum"><b>{{ t("defects.sum", { n: all.length }) }}</b> {{ holds ? t("defects.holds", holds) : t("defects.noHold") }} <b v-if="lowered" class="lowered" data-test="lowered">{{ t("defects.lowered", { n: lowered }) }}</b></p>
    <div v-if="!defect" class="row wrap">
      <ElSelect v-model="machine" class="pick" :aria-label="t('defects.machine')" :placeholder="t('defects.allMachines')"><ElOption value="" :label="t('defects.allMachines')" /><ElOption v-for="[id, name] in machines" :key="id" :value="id" :label="name" /></ElSelect>
      <ElSelect v-model="duty" class="pick" :aria-label="t('defects.duty')" :placeholder="t('defects.allDuties')"><ElOption value="" :label="t('defects.allDuties')" /><ElOption v-for="[id, name] in duties" :key="id" :value="id" :label="name" /></ElSelect>
      <ElSelect v-model="stage" class="pick" :aria-label="t('defects.how')" :placeholder="t('defects.allStages')"><ElOption value="" :label="t('defects.allStages')" /><ElOption v-for="s in STAGES" :key="s" :value="s" :label="t(`defects.stage.${s}`)" /></ElSelect>
    </div>
    <p v-else-if="data && !shown.length" data-test="closed">{{ t("defects.closed") }}</p>
    <WithinCard v-for="w in within" :key="w.machine" :within="w" @changed="told.defects" />
    <DefectCard v-for="d in shown" :key="d.id" :defect="d" :with-machine="true" @changed="told.defects" />
    <p v-if="data && !all.length" class="quiet">{{ t("defects.none") }}</p>
  </div>
</template>

<style scoped>
.lowered { border-left: 5px solid var(--hold); padding-left: 10px; }
.pick { width: 240px; }
@media (max-width: 800px) { .pick { width: 100%; } }
</style>
