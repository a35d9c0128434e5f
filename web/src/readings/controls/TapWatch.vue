<script setup lang="ts">
import { useIntervalFn } from "@vueuse/core";
import { ref } from "vue";
import { useI18n } from "vue-i18n";

import { stopwatch } from "../../app/times";

/** A stopwatch; where something is counted, each tap on the drop counts one. */
const props = defineProps<{ counts: boolean; most: number }>();
const emit = defineEmits<{ done: [count: number, seconds: number] }>();
const { t } = useI18n();
const count = ref(0);
const seconds = ref(0);
const running = ref(false);
let started = 0;
const clock = useIntervalFn(
  () => {
    seconds.value = (performance.now() - started) / 1000;
    if (seconds.value >= props.most) stop();
  },
  200,
  { immediate: false },
);
function tap() {
  if (running.value) {
    if (props.counts) count.value += 1;
    else stop();
    return;
  }
  count.value = 0;
  seconds.value = 0;
  started = performance.now();
  running.value = true;
  clock.resume();
}
function stop() {
  clock.pause();
  running.value = false;
  emit("done", count.value, Math.max(1, Math.round(seconds.value)));
}
</script>

<template>
  <div class="watch">
    <button type="button" class="button tap" :class="{ running }" data-test="watch" @click="tap">
      <svg width="38" height="46" viewBox="0 0 34 44" aria-hidden="true">
        <path v-if="counts" d="M17 2C17 2 4 20 4 29a13 13 0 0 0 26 0C30 20 17 2 17 2Z" />
        <path v-else d="M17 9a15 15 0 1 1-.1 0M17 9V3M13 3h8M17 24V15" />
      </svg>
      {{ running ? (counts ? t("drops.drop") : t("reading.stop")) : t("reading.go") }}
    </button>
    <p class="figures">
      <template v-if="counts">{{ count }} {{ t("drops.in") }} </template>{{ stopwatch(seconds) }}
    </p>
    <button v-if="counts" type="button" class="button" :disabled="!running" data-test="watch-done" @click="stop">
      {{ t("drops.done") }}
    </button>
  </div>
</template>

<style scoped>
.watch { display: flex; gap: 16px; align-items: center; flex-wrap: wrap; } .tap { min-height: 92px; min-width: 150px; font-size: 20px; display: inline-flex; gap: 10px; align-items: center; }
.tap svg { fill: none; stroke: currentColor; stroke-width: 2.6; } .tap.running { background: var(--here); border-color: var(--here); color: var(--on-grade); } .figures { font-size: 30px; font-weight: 600; }
</style>
