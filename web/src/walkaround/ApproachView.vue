<script setup lang="ts">
import { ElInputNumber, ElSwitch } from "element-plus";
import { computed, onMounted, reactive, ref } from "vue";
import { useI18n } from "vue-i18n";
import { useRouter } from "vue-router";

import { api, ask, type Schemas } from "../api/client";
import { useSession } from "../app/session";
import { day } from "../app/times";
import GradeMark from "../parts/GradeMark.vue";
import { plain, store, uuid7 } from "../parts/device";
import type { Mark } from "../parts/marks";
import { useOutbox } from "../parts/outbox";

const props = defineProps<{ machine: string }>();
const { t } = useI18n();
const router = useRouter();
const session = useSession();
const outbox = useOutbox();
const walk = ref<Schemas["WalkOut"] | null>(null);
const says = ref("");
const busy = ref(false);
const form = reactive({ hour_meter: 0, air_c: 10, pitch_deg: 0, roll_deg: 0, shift_hours: 10, dark: false, rain: false, people_on_foot: true });
const switches = ["dark", "rain", "people_on_foot"] as const;
const meterLow = computed(() => walk.value !== null && form.hour_meter < walk.value.machine.hour_meter);
const meterHigh = computed(() => walk.value !== null && form.hour_meter > walk.value.machine.hour_meter + 200);

onMounted(async () => {
  const reply = await ask<Schemas["WalkOut"]>(api.GET("/api/machines/{machine}/walk", { params: { path: { machine: props.machine } } }));
  if (!reply.ok) {
    says.value = reply.problem?.detail ?? t("connection.awayLong");
    return;
  }
  walk.value = reply.data;
  form.hour_meter = reply.data.machine.hour_meter;
  form.shift_hours = reply.data.shift_hours;
  await store.kept.put({ key: `walk/${props.machine}`, value: reply.data });
});

async function begin() {
  if (!walk.value || meterLow.value || busy.value) return;
  busy.value = true;
  const now = Date.now();
  const inspection = uuid7(now);
  const { hour_meter, ...conditions } = form;
  await store.entries.add({
    id: uuid7(now), inspection, machine: props.machine, by: session.person!.id, at: new Date(now).toISOString(), state: 0,
    what: plain({ kind: "opened", hour_meter, conditions, options: walk.value.options }),
  });
  await outbox.flush();
  await router.push({ name: "walk", params: { machine: props.machine, inspection } });
}
</script>

<template>
  <div class="page">
    <h1>{{ walk ? t("approach.title", { name: walk.machine.name }) : t("wait") }}</h1>
    <p class="says" role="alert">{{ says }}</p>
    <form v-if="walk" class="grid" novalidate @submit.prevent="begin">
      <section class="card stack">
        <label class="field"><span>{{ t("approach.hour_meter") }}<small :class="{ bad: meterLow }">{{ meterLow ? t("approach.meterLow", { h: walk.machine.hour_meter.toFixed(1) }) : meterHigh ? t("approach.meterHigh") : t("approach.meterLast", { h: walk.machine.hour_meter.toFixed(1) }) }}</small></span>
          <ElInputNumber v-model="form.hour_meter" :precision="1" :step="1" :min="0" :max="200000" :aria-label="t('approach.hour_meter')" data-test="hour-meter" /></label>
        <label class="field"><span>{{ t("approach.air") }}</span><ElInputNumber v-model="form.air_c" :step="1" :min="-60" :max="60" :aria-label="t('approach.air')" data-test="air" /></label>
        <label class="field"><span>{{ t("approach.pitch") }}<small>{{ t("approach.pitchHelp") }}</small></span><ElInputNumber v-model="form.pitch_deg" :step="0.5" :min="-45" :max="45" :aria-label="t('approach.pitch')" /></label>
        <label class="field"><span>{{ t("approach.roll") }}<small>{{ t("approach.rollHelp") }}</small></span><ElInputNumber v-model="form.roll_deg" :step="0.5" :min="-45" :max="45" :aria-label="t('approach.roll')" /></label>
        <label class="field"><span>{{ t("approach.shift") }}</span><ElInputNumber v-model="form.shift_hours" :step="1" :min="1" :max="24" :aria-label="t('approach.shift')" /></label>
      </section>
      <section class="stack">
        <div class="card">
          <label v-for="s in switches" :key="s" class="field"><span>{{ t(`approach.${s}`) }}</span><ElSwitch v-model="form[s]" :aria-label="t(`approach.${s}`)" /></label>
        </div>
        <div class="card stack">
          <h2 class="h3">{{ t("approach.open", walk.carried.length) }}</h2>
          <p v-for="c in walk.carried" :key="c.checkpoint + c.finding.failure_mode" class="row open">
            <GradeMark :mark="c.grade as Mark" :size="32" />
            <span>{{ walk.checkpoints.find((x) => x.id === c.checkpoint)?.name }}<small>{{ t("approach.since", { at: day(c.since, session.zone), name: walk.people[c.by] }) }} {{ c.finding.note }}</small></span>
          </p>
        </div>
        <p class="quiet">{{ t("caution") }} <RouterLink :to="{ name: 'where', params: { machine } }">{{ t("where.link") }}</RouterLink></p>
        <button class="button primary" type="submit" :disabled="meterLow || busy" data-test="begin">{{ t("approach.begin", { n: walk.checkpoints.length, min: Math.round(walk.planned_s / 60) }) }}</button>
      </section>
    </form>
  </div>
</template>

<style scoped>
.grid { display: grid; grid-template-columns: 1fr 1fr; gap: 20px; margin-top: 14px; align-items: start; }
.field { display: flex; justify-content: space-between; align-items: center; gap: 14px; font-weight: 560; min-height: 60px; }
small { display: block; font-size: 15px; color: var(--soft); font-weight: 420; }
small.bad { color: var(--hold); font-weight: 620; }
.open { align-items: flex-start; }
.says { color: var(--hold); }
.button.primary { align-self: flex-end; min-height: 64px; }
@media (max-width: 800px) { .grid { grid-template-columns: 1fr; } .field { flex-wrap: wrap; } .button.primary { width: 100%; } }
</style>
