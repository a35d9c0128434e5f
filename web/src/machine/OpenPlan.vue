<script setup lang="ts">
import { computed } from "vue";
import { useI18n } from "vue-i18n";
import { useRouter } from "vue-router";

import type { Schemas } from "../api/client";
import { useSession } from "../app/session";
import { day } from "../app/times";
import { useWholeMachine } from "../data/queries";
import GradeMark from "../parts/GradeMark.vue";
import MachinePlan from "../parts/MachinePlan.vue";
import MarkShape from "../parts/MarkShape.vue";
import { viewBox } from "../parts/drawing";

/** What is open on a machine: on its drawing where it is, and as a list that leads to each. */
const props = defineProps<{ machine: string; name: string; drawing: Schemas["DrawingOut"] }>();
/** Half a mark's width, m; and how far two at one place stand apart. */
const R = 0.34;
const { t } = useI18n();
const router = useRouter();
const session = useSession();
const { data: whole } = useWholeMachine(props.machine);
const open = computed(() => {
  const w = whole.value;
  if (!w) return [];
  const beside = new Map<string, number>();
  return w.carried.map((d) => {
    const c = w.checkpoints.find((x) => x.id === d.checkpoint);
    const at = c?.at ?? null;
    const spot = at ? `${at[0].toFixed(1)} ${at[1].toFixed(1)}` : "";
    const nth = beside.get(spot) ?? 0;
    beside.set(spot, nth + 1);
    const failure = w.modes.find((m) => m.id === d.finding.failure_mode)?.name ?? d.finding.failure_mode;
    return { d, place: c?.name ?? d.checkpoint, failure, x: at ? at[0] + nth * 2 * R : null, y: at ? -at[1] : 0 };
  });
});
const to = (id: string) => ({ name: "defect", params: { machine: props.machine, defect: id } });
</script>

<template>
  <section class="card stack" data-test="open-here">
    <h2 class="h3">{{ t("today.open", open.length) }}</h2>
    <svg class="drawing" :viewBox="viewBox(drawing, 0.5)" role="img" :aria-label="t('yard.drawing', { name })">
      <MachinePlan :drawing="drawing" />
      <g v-for="o in open.filter((x) => x.x !== null)" :key="o.d.id" class="pin" @click="router.push(to(o.d.id))">
        <title>{{ o.place }}: {{ o.failure }}</title>
        <MarkShape :mark="o.d.grade" :x="o.x!" :y="o.y" :r="R" />
      </g>
    </svg>
    <RouterLink v-for="o in open" :key="o.d.id" class="button open" :to="to(o.d.id)">
      <GradeMark :mark="o.d.grade" :size="34" /><span
        >{{ o.place }}: {{ o.failure }} <span class="quiet">{{ t("file.since", { at: day(o.d.since, session.zone) }) }}</span></span
      >
    </RouterLink>
  </section>
</template>

<style scoped>
.drawing { width: 100%; max-height: 300px; }
.pin { cursor: pointer; }
.open { justify-content: flex-start; text-align: left; font-weight: 560; border-color: var(--line); }
.open .quiet { font-weight: 420; }
</style>
