<script setup lang="ts">
import { computed } from "vue";
import { useI18n } from "vue-i18n";

import type { Schemas } from "../api/client";
import { useSession } from "../app/session";
import { dayAndTime } from "../app/times";
import GradeMark from "../parts/GradeMark.vue";
import MachinePlan from "../parts/MachinePlan.vue";
import { actionOf } from "./action";
import { figure } from "../app/language";

/** `length`: metres from top to bottom, the same for every bay. */
const props = defineProps<{ machine: Schemas["YardMachineOut"]; drawing?: Schemas["DrawingOut"]; length: number }>();
const { t } = useI18n();
const session = useSession();
const action = computed(() => actionOf(props.machine));
// Every bay has the same scale: the machine nose up, as seen from above.
const box = computed(() => {
  const [x0, y0, x1, y1] = props.drawing?.bounds ?? [-3, -1.5, 3, 1.5];
  const half = Math.max(-y0, y1) + 0.2;
  const middle = -(x0 + x1) / 2;
  return `${-half} ${middle - props.length / 2} ${2 * half} ${props.length}`;
});
</script>

<template>
  <article class="bay" :data-test="`bay-${machine.machine.id}`">
    <RouterLink class="where" :to="{ name: 'where', params: { machine: machine.machine.id } }">{{ t("where.link") }}</RouterLink>
    <svg :viewBox="box" class="from-above" role="img" :aria-label="t('yard.drawing', { name: machine.machine.name })">
      <g v-if="drawing" transform="rotate(-90)"><MachinePlan :drawing="drawing" /></g>
    </svg>
    <div class="name row">
      <GradeMark :mark="machine.go" :size="46" silent />
      <div>
        <h2><RouterLink class="file" :to="{ name: 'machine', params: { machine: machine.machine.id } }">{{ machine.machine.name }}</RouterLink></h2>
        <p class="word">{{ t(`mark.${machine.go}`) }}</p>
      </div>
    </div>
    <p class="why">{{ machine.why }}</p>
    <p v-for="l in machine.limits" :key="l" class="limit">{{ l }}</p>
    <p class="quiet">
      <template v-if="machine.current">{{ t("yard.under", { name: machine.walked_by, n: machine.answered, of: machine.planned }) }}</template>
      <template v-else-if="machine.signed_by">{{ t("yard.signed", { name: machine.signed_by, at: dayAndTime(machine.signed_at ?? '', session.zone) }) }}</template>
    </p>
    <p class="quiet"><b>{{ figure(machine.machine.hour_meter - machine.machine.meter_offset, 1) }}</b> {{ t("unit.hours") }} · {{ t("yard.open", machine.open_findings) }}</p>
    <div class="doing">
      <RouterLink class="button" :class="{ primary: action !== 'again' }" :to="machine.current ? { name: 'walk', params: { machine: machine.machine.id, inspection: machine.current } } : { name: 'approach', params: { machine: machine.machine.id } }">{{ t(`yard.${action}`) }}</RouterLink>
      <RouterLink v-if="machine.last" class="button" :to="{ name: 'record', params: { inspection: machine.last } }">{{ t("yard.record") }}</RouterLink>
    </div>
  </article>
</template>

<style scoped>
.where { align-self: flex-end; min-height: 44px; padding: 10px 0; font-size: 16px; margin-bottom: -44px; z-index: 1; }
.bay { border-right: 2px solid var(--ink); border-left: 2px solid var(--ink); margin-left: -2px; padding: 14px 18px 18px; display: flex; flex-direction: column; gap: 6px; }
.from-above { height: 215px; width: 100%; }
.name { margin-top: 4px; }
.file { color: var(--ink); display: inline-block; min-height: 44px; padding: 8px 0; }
.word { font-weight: 620; }
.why { display: -webkit-box; -webkit-line-clamp: 3; -webkit-box-orient: vertical; overflow: hidden; font-size: 17px; }
.limit { font-weight: 620; font-size: 16px; line-height: 1.25; display: -webkit-box; -webkit-line-clamp: 2; -webkit-box-orient: vertical; overflow: hidden; }
.doing { margin-top: auto; display: flex; flex-wrap: wrap; gap: 12px; padding-top: 6px; }
.doing .button { flex: 1; padding: 8px 10px; white-space: nowrap; }
</style>
