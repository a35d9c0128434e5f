<script setup lang="ts">
import { onMounted, ref } from "vue";
import { useI18n } from "vue-i18n";

import { call, type Schemas } from "../api/client";

/** The key and levers of a machine that is a stand-in, and what is to be wrong with it. A real one has its own. */
const props = defineProps<{ machine: string }>();
const { t } = useI18n();
const TURNS = ["stands", "cranked", "runs"] as const;
const FAULTS = [
  "oil-pressure",
  "no-charge",
  "overheating",
  "air-filter",
  "weak-battery",
  "exhaust-fluid",
  "sensor-lost",
  "sensor-wrong",
] as const;
type Orders = Schemas["OrdersOut"];
const given = ref<Orders | null>(null);
const says = ref("");
async function order(body: Schemas["OrdersIn"]) {
  const reply = await call("put", "/api/machines/{machine}/stand-in", { params: { path: { machine: props.machine } }, body });
  if (reply.ok) given.value = reply.data;
  says.value = reply.ok ? "" : reply.away ? t("run.notKnown") : (reply.problem?.detail ?? "");
}
onMounted(() => order({}));
const turn = (turns: Orders["turns"]) => order(turns === "runs" ? { turns } : { turns, throttle: 0, load: 0 });
const fault = (f: string, all: string[]) => order({ faults: all.includes(f) ? all.filter((x) => x !== f) : [...all, f] });
const part = (e: Event) => Number((e.target as HTMLInputElement).value) / 100;
</script>

<template>
  <details class="card" data-test="stand-in">
    <summary>{{ t("panel.standIn") }}</summary>
    <p class="quiet">{{ t("panel.standInHow") }}</p>
    <template v-if="given">
      <div class="chips" role="group" :aria-label="t('panel.key')">
        <button
          v-for="k in TURNS"
          :key="k"
          type="button"
          class="button"
          :class="{ chosen: given.turns === k }"
          :aria-pressed="given.turns === k"
          :data-test="`key-${k}`"
          @click="turn(k)">
          {{ t(`panel.turns.${k}`) }}
        </button>
      </div>
      <label v-for="lever in ['throttle', 'load'] as const" :key="lever" class="lever"
        ><span>{{ t(`panel.${lever}`) }}</span
        ><input
          type="range"
          min="0"
          max="100"
          :value="100 * given[lever]"
          :disabled="given.turns !== 'runs'"
          :data-test="lever"
          @change="(e) => order({ [lever]: part(e) })"
      /></label>
      <div class="chips small" role="group" :aria-label="t('panel.wrong')">
        <button
          v-for="f in FAULTS"
          :key="f"
          type="button"
          class="button"
          :class="{ chosen: given.faults.includes(f) }"
          :aria-pressed="given.faults.includes(f)"
          :data-test="`fault-${f}`"
          @click="fault(f, given.faults)">
          {{ t(`panel.fault.${f}`) }}
        </button>
      </div>
    </template>
    <p v-if="says" role="alert">{{ says }}</p>
  </details>
</template>

<style scoped>
summary { font-weight: 620; min-height: 40px; cursor: pointer; } details[open] { display: flex; flex-direction: column; gap: 10px; }
input { width: 100%; height: 44px; accent-color: var(--deep); } .lever { display: grid; grid-template-columns: 90px 1fr; align-items: center; gap: 14px; padding-right: 12px; } .small .button { font-size: 16px; padding: 4px 12px; }
</style>
