<script setup lang="ts">
import { computed } from "vue";
import { useI18n } from "vue-i18n";

import type { Schemas } from "../api/client";
import { useSession } from "../app/session";
import { dayAndTime } from "../app/times";
import GradeMark from "../parts/GradeMark.vue";
import MachinePlan from "../parts/MachinePlan.vue";
import { viewBox } from "../parts/drawing";
import { placeOf } from "../yard/action";

/** The machine that somebody is on: how it stands, what limits it, and the one thing to do next. */
const props = defineProps<{ machine: Schemas["YardMachineOut"]; drawing?: Schemas["DrawingOut"]; me: string }>();
const { t } = useI18n();
const session = useSession();
const walks = computed(() => props.machine.current !== null && props.machine.walker === props.me);
</script>

<template>
  <article class="card mine" :data-test="`mine-${machine.machine.id}`">
    <svg v-if="drawing" :viewBox="viewBox(drawing)" class="from-above" aria-hidden="true"><MachinePlan :drawing="drawing" /></svg>
    <span v-else class="from-above" />
    <div class="stack grow">
      <h3 class="name"><GradeMark :mark="machine.go" :size="48" silent />{{ machine.machine.name }} · {{ t(`mark.${machine.go}`) }}</h3>
      <p>{{ machine.why }}</p>
      <p v-for="l in machine.limits" :key="l">
        <b>{{ l }}</b>
      </p>
      <p v-if="walks" class="quiet">{{ t("yard.under", { name: machine.walked_by, n: machine.answered, of: machine.planned }) }}</p>
      <p v-else-if="machine.valid_until" class="quiet">{{ t("today.until", { at: dayAndTime(machine.valid_until, session.zone) }) }}</p>
    </div>
    <div class="acts">
      <RouterLink v-if="walks" class="button primary" data-test="go-on" :to="placeOf(machine)">{{ t("today.goOn") }}</RouterLink>
      <RouterLink v-else class="button primary" data-test="start" :to="{ name: 'run', params: { machine: machine.machine.id } }">{{
        t("run.link")
      }}</RouterLink>
      <RouterLink v-if="machine.open_findings" class="button" :to="{ name: 'machine-defects', params: { machine: machine.machine.id } }">{{
        t("today.open", machine.open_findings)
      }}</RouterLink>
    </div>
  </article>
</template>

<style scoped>
.mine { display: flex; gap: 20px; align-items: center; border: 2px solid var(--ink); }
.from-above { width: 220px; height: 120px; flex: none; }
.grow { flex: 1; min-width: 0; gap: 6px; }
.name { display: flex; align-items: center; gap: 12px; font-size: 22px; }
.acts { display: grid; gap: 10px; flex: none; min-width: 180px; }
@media (max-width: 700px) { .mine { flex-wrap: wrap; gap: 12px; } .from-above { width: 100%; height: 90px; } .grow { min-width: 100%; } .acts { width: 100%; } .acts .button { min-height: 64px; } }
</style>
