<script setup lang="ts">
import { computed } from "vue";
import { useI18n } from "vue-i18n";

/** The mark on the ground beside a boot print of 30 cm: made larger and smaller until it is as large. */
const props = defineProps<{ across: number; along: number }>();
const emit = defineEmits<{ size: [across: number, along: number] }>();
const { t } = useI18n();
const CM = 3.2;
const rx = computed(() => Math.min(150, (props.along * CM) / 2));
const ry = computed(() => Math.min(80, (props.across * CM) / 2));
function grow(by: number) {
  const k = 1 + by;
  emit("size", Math.max(1, Math.round(props.across * k)), Math.max(1, Math.round(props.along * k)));
}
function point(e: PointerEvent) {
  const svg = e.currentTarget as Element;
  const box = svg.getBoundingClientRect();
  svg.setPointerCapture(e.pointerId);
  const half = Math.abs(((e.clientX - box.left) / box.width) * 420 - 270) / CM;
  const along = Math.max(2, Math.round(2 * half));
  emit("size", Math.max(1, Math.round((along * props.across) / Math.max(1, props.along))), Math.min(95, along));
}
</script>

<template>
  <div class="puddle">
    <svg
      viewBox="0 0 420 190"
      role="slider"
      tabindex="0"
      :aria-label="t('reading.puddle')"
      aria-valuemin="1"
      aria-valuemax="95"
      :aria-valuenow="along"
      :aria-valuetext="t('reading.puddleIs', { a: across, b: along })"
      data-test="puddle"
      @pointerdown="point"
      @pointermove="$event.buttons && point($event)"
      @keydown.up.prevent="grow(0.1)"
      @keydown.right.prevent="grow(0.1)"
      @keydown.down.prevent="grow(-0.1)"
      @keydown.left.prevent="grow(-0.1)">
      <g class="boot">
        <path d="M32 58q0-24 20-24 16 0 20 22 4 26-2 46-3 12-16 12-14 0-18-12-6-20-4-44Z" />
        <path d="M40 118q14 5 28 0 2 22-14 22t-14-22Z" />
        <path d="M38 56h30M37 72h33M37 88h32" class="tread" />
      </g>
      <text x="54" y="166">{{ t("reading.boot") }}</text>
      <ellipse cx="270" cy="92" :rx="rx" :ry="ry" class="mark" />
      <circle :cx="270 + rx" cy="92" r="16" class="grip" />
      <text x="270" y="184">{{ t("reading.cm", { a: across, b: along }) }}</text>
    </svg>
    <div class="row wrap">
      <button type="button" class="button" @click="grow(-0.15)">{{ t("reading.smaller") }}</button><button
        type="button"
        class="button"
        @click="grow(0.18)">
        {{ t("reading.larger") }}
      </button>
    </div>
  </div>
</template>

<style scoped>
.puddle { display: grid; gap: 10px; } svg { width: 100%; max-width: 480px; touch-action: none; cursor: ew-resize; }
.boot path { fill: none; stroke: var(--ink); stroke-width: 2.2; } .boot .tread { stroke-width: 1.4; } .mark { fill: var(--oil); opacity: 0.75; stroke: var(--ink); stroke-width: 1.6; } .grip { fill: var(--here); }
text { font-size: 16px; text-anchor: middle; fill: var(--ink); }
</style>
