<script setup lang="ts">
import { computed } from "vue";
import { useI18n } from "vue-i18n";

import type { Schemas } from "../api/client";
import GradeMark from "../parts/GradeMark.vue";

/** What waits for a mechanic, machine by machine, the worst first: where it is, what is wrong, what is done first. */
const props = defineProps<{ defects: Schemas["OpenDefectOut"][]; machines: Schemas["YardMachineOut"][]; all: number }>();
const { t } = useI18n();
const byMachine = computed(() => {
  const out = new Map<string, Schemas["OpenDefectOut"][]>();
  for (const d of props.defects) out.set(d.machine, [...(out.get(d.machine) ?? []), d]);
  return [...out].map(([id, defects]) => ({ id, defects, go: props.machines.find((m) => m.machine.id === id)?.go }));
});
</script>

<template>
  <section class="stack" data-test="today-repairs">
    <h2>{{ t("today.repairs", defects.length) }}</h2>
    <article v-for="{ id, defects: found, go } in byMachine" :key="id" class="card stack">
      <h3 class="name"><GradeMark v-if="go" :mark="go" :size="34" />{{ found[0]!.machine_name }}</h3>
      <p v-for="d in found" :key="d.id" class="line">
        <GradeMark :mark="d.grade" :size="30" /><span
          ><RouterLink :to="{ name: 'defect', params: { machine: d.machine, defect: d.id } }">{{ d.place }}: {{ d.failure }}</RouterLink
          ><span v-if="d.first_action" class="first">{{ d.first_action }}</span
          ><span v-if="d.stage === 'in-repair'" class="quiet">{{ t("defects.stage.in-repair") }}</span></span
        >
      </p>
    </article>
    <RouterLink v-if="all > defects.length" class="button all" to="/defects">{{ t("today.allOpen", { n: all }) }}</RouterLink>
  </section>
</template>

<style scoped>
.name { display: flex; gap: 10px; align-items: center; }
.line { display: flex; gap: 12px; align-items: flex-start; }
.line a { font-weight: 600; display: inline-flex; min-height: 32px; align-items: center; }
.first, .line .quiet { display: block; }
.all { align-self: flex-start; }
</style>
