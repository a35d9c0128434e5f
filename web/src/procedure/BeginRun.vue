<script setup lang="ts">
import { ElSwitch } from "element-plus";
import { computed, reactive, ref } from "vue";
import { useI18n } from "vue-i18n";

import { useSession } from "../app/session";
import { dayAndTime } from "../app/times";
import { useInstruments } from "../data/queries";
import { NO_CONDITIONS } from "../walkaround/useWalk";
import PutRight from "./PutRight.vue";
import LockPanel from "../parts/LockPanel.vue";
import type { RunNow, UseRun } from "./useRun";
import NumberField from "../parts/NumberField.vue";

/** Before a run: may it be started, what the one before left, what the day is like. */
const props = defineProps<{ run: RunNow; r: UseRun }>();
const { t } = useI18n();
const session = useSession();
const { data: devices } = useInstruments();
/** What the machine tells of itself, if it is read and the bus is its own. */
const told = (key: string) =>
  props.run.panel?.live && !props.run.panel.doubt ? (props.run.panel.needles.find((n) => n.key === key)?.value ?? null) : null;
const station = computed(() => devices.value?.find((d) => d.key === "weather-station")?.now.air_c ?? null);
const air = computed(() => station.value ?? told("ambient"));
const form = reactive({ air_c: null as number | null, slope: false, frost: false, dark: false, rain: false });
const meter = ref(Number((told("hours") ?? props.run.machine.hour_meter - props.run.machine.meter_offset).toFixed(1)));
/** It was cleared, and not by who asks. */
const inspected = computed(() => ["ready", "ready-mends-due", "limited"].includes(props.run.gate.go));
const busy = ref(false);
/** A slope that counts as one, where nobody measured it. */
const SLOPE_DEG = 5;
async function begin() {
  busy.value = true;
  const conditions = {
    ...NO_CONDITIONS,
    air_c: form.air_c ?? air.value ?? NO_CONDITIONS.air_c,
    pitch_deg: form.slope ? SLOPE_DEG : 0,
    frost: form.frost,
    dark: form.dark,
    rain: form.rain,
  };
  await props.r.begin({ hour_meter: meter.value, options: props.run.options, conditions });
  busy.value = false;
}
</script>

<template>
  <div class="page stack">
    <div class="row spread wrap">
      <h1>{{ t("run.title", { name: run.machine.name }) }}</h1>
      <RouterLink class="button plain" :to="{ name: 'machine', params: { machine: run.machine.id } }">{{ t("run.file") }}</RouterLink>
    </div>
    <section
      class="card stack gate"
      :class="{ no: !run.gate.may, cure: run.gate.cure || run.gate.no_work }"
      data-test="gate"
      :data-may="run.gate.may">
      <h2>
        {{
          t(run.gate.cure && run.gate.may ? "cure.may" : run.gate.may ? (run.gate.no_work ? "run.mayTests" : "run.mayStart") : "run.mayNot")
        }}
      </h2>
      <p v-if="run.gate.cure" data-test="cure">
        <b>{{ run.gate.cure }}.</b> {{ t("cure.alone") }}
      </p>
      <p v-if="run.gate.cure" class="quiet">{{ t("cure.holds", { names: run.gate.holding.map((h) => h.name).join(", ") }) }}</p>
      <p v-else>{{ run.gate.no_work || run.gate.why }}</p>
      <ul v-if="run.gate.limits.length">
        <li v-for="l in run.gate.limits" :key="l">{{ l }}</li>
      </ul>
      <RouterLink
        v-if="!run.gate.may && (!run.gate.held || run.gate.go === 'uninspected')"
        class="button"
        :to="{ name: 'approach', params: { machine: run.machine.id }, query: inspected ? { kind: 'change-of-operator' } : {} }"
        data-test="walk-first"
        >{{ t("yard.walk") }}</RouterLink
      >
      <RouterLink v-else-if="run.gate.held" class="button" :to="{ name: 'machine-defects', params: { machine: run.machine.id } }">{{
        t("defects.title")
      }}</RouterLink>
    </section>
    <PutRight v-if="run.gate.holding.length && !run.gate.cure" :run="run" :r="r" />
    <LockPanel :machine="run.machine.id" :locks="run.gate.locks" @changed="r.refresh()" />
    <section v-if="run.before" class="card stack" data-test="before">
      <h2 class="h3">{{ t("run.before", { by: run.before.by, at: dayAndTime(run.before.at, session.zone) }) }}</h2>
      <p v-if="run.before.text" class="left">{{ run.before.text }}</p>
      <ul v-if="run.before.lines.length">
        <li v-for="l in run.before.lines" :key="l.entry + l.says" :class="{ urgent: l.urgent }">{{ l.says }}</li>
      </ul>
    </section>
    <form class="card stack" novalidate @submit.prevent="begin">
      <label class="field"
        ><span>{{ t("approach.hour_meter") }}</span
        ><NumberField
          v-model="meter"
          :precision="1"
          :step="1"
          :min="0"
          :max="200000"
          :aria-label="t('approach.hour_meter')"
          data-test="run-meter"
      /></label>
      <label class="field"
        ><span
          >{{ t("approach.air")
          }}<small v-if="air !== null && form.air_c === null">{{
            t(station !== null ? "run.airFrom" : "run.airTold", { v: air })
          }}</small></span
        ><NumberField
          v-model="form.air_c"
          :placeholder="String(air ?? NO_CONDITIONS.air_c)"
          :step="1"
          :min="-60"
          :max="60"
          :aria-label="t('approach.air')"
          data-test="run-air"
      /></label>
      <label v-for="q in ['slope', 'frost', 'dark', 'rain'] as const" :key="q" class="field"
        ><span>{{ t(`run.asks.${q}`) }}</span
        ><ElSwitch v-model="form[q]" :aria-label="t(`run.asks.${q}`)" :data-test="`run-${q}`"
      /></label>
      <button type="submit" class="button primary" :disabled="busy || !run.gate.may" data-test="begin-run">{{ t("run.begin") }}</button>
      <p class="quiet">{{ t("caution") }}</p>
    </form>
  </div>
</template>

<style scoped>
.gate { border: 2px solid var(--sound); } .gate.no { border-color: var(--hold); } .gate.cure { border-color: var(--limit); } .field { display: flex; justify-content: space-between; align-items: center; gap: 12px; } .field span { display: flex; flex-direction: column; } small { color: var(--soft); font-size: 15px; }
ul { margin: 0; padding-left: 22px; } .urgent { font-weight: 620; } .left { border-left: 4px solid var(--line); padding-left: 12px; white-space: pre-line; }
</style>
