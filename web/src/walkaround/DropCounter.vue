<script setup lang="ts">
import { useIntervalFn } from "@vueuse/core";
import { ref } from "vue";
import { useI18n } from "vue-i18n";

import type { Schemas } from "../api/client";
import { stopwatch } from "../app/times";
import JudgementLine from "../parts/JudgementLine.vue";

const props = defineProps<{ leak: Schemas["LeakOut"] | null; drops?: number; seconds?: number }>();
const emit = defineEmits<{ count: [drops: number, seconds: number] }>();
const { t } = useI18n();
const counted = ref(props.drops ?? 0);
const passed = ref(props.seconds ?? 0);
const running = ref(false);
let started = 0;

const clock = useIntervalFn(
  () => {
    passed.value = (performance.now() - started) / 1000;
    if (passed.value >= 120) finish();
  },
  200,
  { immediate: false },
);

/** The first tap starts the watch; every later one is a drop. */
function tap() {
  if (!running.value) {
    running.value = true;
    counted.value = 0;
    passed.value = 0;
    started = performance.now();
    clock.resume();
    return;
  }
  counted.value += 1;
}
function finish() {
  clock.pause();
  running.value = false;
  emit("count", counted.value, Math.max(1, Math.round(passed.value)));
}
</script>

<template>
  <div class="counter">
    <button type="button" class="button drop" :class="{ running }" data-test="drop" @click="tap">
      <svg width="34" height="44" viewBox="0 0 34 44" aria-hidden="true">
        <path d="M17 2C17 2 4 20 4 29a13 13 0 0 0 26 0C30 20 17 2 17 2Z" />
      </svg>
      <span>{{ running ? t("drops.drop") : counted ? t("drops.again") : t("drops.start") }}</span>
    </button>
    <p>
      <span class="figure big">{{ counted }}</span> {{ t("drops.in") }} <span class="figure big">{{ stopwatch(passed) }}</span>
    </p>
    <button type="button" class="button" :disabled="!running" data-test="drops-done" @click="finish">{{ t("drops.done") }}</button>
    <div v-if="leak?.rate != null" class="full"><JudgementLine :judgement="leak.judgement" /></div>
    <p v-else class="full quiet">{{ t("drops.how") }}</p>
  </div>
</template>

<style scoped>
.counter { display: grid; grid-template-columns: auto 1fr auto; gap: 12px 18px; align-items: center; }
.drop { min-height: 96px; min-width: 150px; font-size: 20px; }
.drop svg { fill: none; stroke: currentColor; stroke-width: 3; }
.drop.running { background: var(--here); border-color: var(--here); color: var(--on-grade); }
.big { font-size: 40px; }
.full { grid-column: 1 / -1; }
</style>
