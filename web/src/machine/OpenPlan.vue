<script setup lang="ts">
import { computed } from "vue";
import { useI18n } from "vue-i18n";
import { useRouter } from "vue-router";

import type { Schemas } from "../api/client";
import { useSession } from "../app/session";
import { day } from "../app/times";
import { useWholeMachine } from "../data/queries";
import GradeMark from "../parts/GradeMark.vue";
import PinnedPlan from "../parts/PinnedPlan.vue";

/** What is open on a machine: on its drawing where it is, and as a list that leads to each. */
const props = defineProps<{ machine: string; name: string; drawing: Schemas["DrawingOut"] }>();
const { t } = useI18n();
const router = useRouter();
const session = useSession();
const { data: whole } = useWholeMachine(props.machine);
const open = computed(() => {
  const w = whole.value;
  if (!w) return [];
  return w.carried.map((d) => {
    const c = w.checkpoints.find((x) => x.id === d.checkpoint);
    const failure = w.modes.find((m) => m.id === d.finding.failure_mode)?.name ?? d.finding.failure_mode;
    return { d, place: c?.name ?? d.checkpoint, failure, at: c?.at ?? null };
  });
});
const pins = computed(() => open.value.map((o) => ({ key: o.d.id, at: o.at, mark: o.d.grade, title: `${o.place}: ${o.failure}` })));
const to = (id: string) => ({ name: "defect", params: { machine: props.machine, defect: id } });
</script>

<template>
  <section class="card stack" data-test="open-here">
    <h2 class="h3">{{ t("today.open", open.length) }}</h2>
    <PinnedPlan :drawing="drawing" :pins="pins" :label="t('yard.drawing', { name })" @pick="(id) => router.push(to(id))" />
    <RouterLink v-for="o in open" :key="o.d.id" class="button open" :to="to(o.d.id)">
      <GradeMark :mark="o.d.grade" :size="34" /><span
        >{{ o.place }}: {{ o.failure }} <span class="quiet">{{ t("file.since", { at: day(o.d.since, session.zone) }) }}</span></span
      >
    </RouterLink>
  </section>
</template>

<style scoped>
.open { justify-content: flex-start; text-align: left; font-weight: 560; border-color: var(--line); }
.open .quiet { font-weight: 420; }
</style>
