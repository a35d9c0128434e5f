<script setup lang="ts">
import { computed } from "vue";
import { useI18n } from "vue-i18n";

import type { Schemas } from "../api/client";
import { figure } from "../app/language";
import { useSession } from "../app/session";
import { dayAndTime } from "../app/times";
import GradeMark from "../parts/GradeMark.vue";
import MachinePlan from "../parts/MachinePlan.vue";
import { actionOf, placeOf, startOf } from "./action";

/** A bay of the parking line. `length`, `width`: metres of a bay, the same for all: one scale. */
const props = defineProps<{ machine: Schemas["YardMachineOut"]; drawing?: Schemas["DrawingOut"]; length: number; width: number }>();
const { t } = useI18n();
const session = useSession();
const start = computed(() => startOf(props.machine, session.person?.id));
const action = computed(() => actionOf(props.machine));
// Every bay has the same scale: the machine with its nose to the right, as seen from above.
const box = computed(() => {
  const [x0, y0, x1, y1] = props.drawing?.bounds ?? [-3, -1.5, 3, 1.5];
  return `${(x0 + x1) / 2 - props.length / 2} ${(y0 + y1) / 2 - props.width / 2} ${props.length} ${props.width}`;
});
/** All that limits it, and how many things, since the last may not find room here; or else why. */
const why = computed(() => {
  const limits = props.machine.limits;
  return limits.length > 1 ? t("yard.limits", { n: limits.length, all: limits.join(" ") }) : (limits[0] ?? props.machine.why);
});
const whole = computed(() => [props.machine.why, ...props.machine.limits].join(" "));
</script>

<template>
  <article class="bay" :data-test="`bay-${machine.machine.id}`">
    <svg :viewBox="box" class="from-above" role="img" :aria-label="t('yard.drawing', { name: machine.machine.name })">
      <MachinePlan v-if="drawing" :drawing="drawing" />
    </svg>
    <div class="name">
      <GradeMark :mark="machine.go" :size="40" silent />
      <h2>
        <RouterLink class="file" :to="{ name: 'machine', params: { machine: machine.machine.id } }">{{
          machine.machine.name
        }}</RouterLink><span class="word">{{ t(`mark.${machine.go}`) }}</span>
      </h2>
    </div>
    <RouterLink
      v-if="machine.open_findings"
      class="why"
      :title="whole"
      :to="{ name: 'machine-defects', params: { machine: machine.machine.id } }"
      >{{ why }}</RouterLink
    >
    <p v-else class="why" :title="whole">{{ why }}</p>
    <p class="who">
      <template v-if="machine.current">{{
        t("yard.under", { name: machine.walked_by, n: machine.answered, of: machine.planned })
      }}</template>
      <template v-else-if="machine.signed_by">{{
        t("yard.signed", { name: machine.signed_by, at: dayAndTime(machine.signed_at ?? "", session.zone) })
      }}</template>
      <template v-else>{{ figure(machine.machine.hour_meter - machine.machine.meter_offset, 1) }} {{ t("unit.hours") }}</template>
    </p>
    <div class="acts">
      <RouterLink class="button" :class="{ primary: action !== 'again' }" :to="placeOf(machine)">{{ t(`yard.${action}`) }}</RouterLink>
      <RouterLink
        v-if="start === 'take-over'"
        class="button"
        :data-test="`take-over-${machine.machine.id}`"
        :to="{ name: 'approach', params: { machine: machine.machine.id }, query: { kind: 'change-of-operator' } }"
        >{{ t("yard.takeOver") }}</RouterLink
      >
      <RouterLink
        v-else-if="start === 'start'"
        class="button primary"
        :data-test="`start-${machine.machine.id}`"
        :to="{ name: 'run', params: { machine: machine.machine.id } }"
        >{{ t("run.start") }}</RouterLink
      >
    </div>
  </article>
</template>

<style scoped>
.bay { border: 2px solid var(--ink); border-top: 0; margin-left: -2px; padding: 6px 12px 10px; display: flex; flex-direction: column; gap: 4px; min-width: 0; }
.from-above { height: 76px; width: 100%; }
.name { display: flex; gap: 10px; align-items: center; min-height: 46px; }
h2 { display: flex; flex-direction: column; min-width: 0; line-height: 1.1; }
.file { color: var(--ink); font-size: 21px; min-height: 28px; display: inline-flex; align-items: center; position: relative; }
.file::after { content: ""; position: absolute; inset: -10px -40px -10px -54px; }
.word { font-weight: 620; font-size: 15px; }
.why { font-size: 16px; line-height: 1.25; color: var(--ink); min-height: 60px; display: -webkit-box; -webkit-line-clamp: 3; -webkit-box-orient: vertical; overflow: hidden; text-decoration: none; }
a.why { text-decoration: underline; text-decoration-color: var(--soft); text-decoration-thickness: 1px; text-underline-offset: 3px; }
.who { font-size: 15px; line-height: 1.2; color: var(--soft); min-height: 36px; }
.acts { margin-top: auto; display: flex; gap: 8px; } .acts .button { flex: 1; padding: 6px 8px; }
</style>
