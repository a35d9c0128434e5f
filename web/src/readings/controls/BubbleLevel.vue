<script setup lang="ts">
import { useEventListener } from "@vueuse/core";
import { computed, ref } from "vue";
import { useI18n } from "vue-i18n";

import { figure } from "../../app/language";

/** A bubble level: by hand, or by the tablet's own tilt sensor laid flat on the machine, its top to the front. */
const pitch = defineModel<number>("pitch", { required: true });
const roll = defineModel<number>("roll", { required: true });
const { t } = useI18n();
const MOST = 15;
const sensed = ref(false);
const listening = ref(false);
const svg = ref<SVGSVGElement | null>(null);
const clip = (v: number) => Math.max(-45, Math.min(45, Math.round(v * 2) / 2));
const x = computed(() => 110 - (Math.max(-MOST, Math.min(MOST, pitch.value)) / MOST) * 78);
const y = computed(() => 110 - (Math.max(-MOST, Math.min(MOST, -roll.value)) / MOST) * 78);
useEventListener(window, "deviceorientation", (e: DeviceOrientationEvent) => {
  if (!listening.value || e.beta === null || e.gamma === null) return;
  sensed.value = true;
  pitch.value = clip(-e.beta);
  roll.value = clip(-e.gamma);
});
function point(e: PointerEvent) {
  const box = svg.value!.getBoundingClientRect();
  svg.value!.setPointerCapture(e.pointerId);
  pitch.value = clip((-(((e.clientX - box.left) / box.width) * 220 - 110) / 78) * MOST);
  roll.value = clip(((((e.clientY - box.top) / box.height) * 220 - 110) / 78) * MOST);
}
function key(e: KeyboardEvent) {
  const by = { ArrowLeft: [0.5, 0], ArrowRight: [-0.5, 0], ArrowUp: [0, -0.5], ArrowDown: [0, 0.5] }[e.key];
  if (!by) return;
  e.preventDefault();
  e.stopPropagation();
  pitch.value = clip(pitch.value + by[0]!);
  roll.value = clip(roll.value + by[1]!);
}
</script>

<template>
  <div class="bubble">
    <svg
      ref="svg"
      viewBox="0 0 220 220"
      role="application"
      tabindex="0"
      :aria-label="t('reading.bubble', { p: pitch, r: roll })"
      data-test="bubble"
      @pointerdown="point"
      @pointermove="$event.buttons && point($event)"
      @keydown="key">
      <circle cx="110" cy="110" r="100" class="dish" />
      <circle cx="110" cy="110" r="26" class="ring" />
      <circle cx="110" cy="110" r="62" class="ring" />
      <path d="M10 110H210M110 10V210" class="ring" />
      <text x="196" y="104">{{ t("reading.front") }}</text>
      <circle :cx="x" :cy="y" r="22" class="drop" />
    </svg>
    <p>{{ t("reading.tilt", { p: figure(pitch, 1), r: figure(roll, 1) }) }}</p>
    <button type="button" class="button" :aria-pressed="listening" @click="listening = !listening">
      {{ t(listening ? (sensed ? "reading.sensorOff" : "reading.sensorNone") : "reading.sensorOn") }}
    </button>
  </div>
</template>

<style scoped>
.bubble { display: grid; gap: 10px; justify-items: start; } svg { width: 100%; max-width: 260px; touch-action: none; cursor: grab; }
.dish { fill: var(--paper); stroke: var(--ink); stroke-width: 2.4; } .ring { fill: none; stroke: var(--line); stroke-width: 2; } .drop { fill: var(--here); opacity: 0.85; }
text { font-size: 14px; text-anchor: end; fill: var(--soft); }
</style>
