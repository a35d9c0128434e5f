<script setup lang="ts">
import { computed } from "vue";
import { useI18n } from "vue-i18n";

import { useDragged } from "../useDragged";

/** A belt between pulleys, or a track under a straight edge: how far its middle gives is dragged. */
const props = defineProps<{ name: string; shape: "belt" | "sag"; target?: number; most: number }>();
const model = defineModel<number>({ required: true });
const { t } = useI18n();
const W = 380,
  H = 190,
  TOP = 56;
const scale = computed(() => 100 / props.most);
const { on } = useDragged(
  model,
  () => ({ low: 0, high: Math.round(props.most), step: props.most > 60 ? 1 : 0.5 }),
  { width: W, height: H },
  (_, y) => (y - TOP) / scale.value,
);
const deep = computed(() => TOP + model.value * scale.value);
const curve = (y: number) => `M46 ${TOP}Q190 ${2 * y - TOP} 334 ${TOP}`;
</script>

<template>
  <svg
    :viewBox="`0 0 ${W} ${H}`"
    class="span"
    role="slider"
    tabindex="0"
    :aria-label="name"
    aria-valuemin="0"
    :aria-valuemax="most"
    :aria-valuenow="model"
    :aria-valuetext="`${model} mm`"
    data-test="span"
    v-on="on">
    <template v-if="shape === 'belt'">
      <circle cx="46" :cy="TOP + 26" r="26" class="wheel" />
      <circle cx="334" :cy="TOP + 26" r="26" class="wheel" />
    </template>
    <template v-else>
      <circle cx="46" :cy="TOP + 20" r="17" class="wheel" />
      <circle cx="334" :cy="TOP + 20" r="17" class="wheel" />
    </template>
    <path :d="`M26 ${TOP}H354`" class="edge" />
    <text x="190" y="30">{{ t(shape === "belt" ? "reading.beltEdge" : "reading.sagEdge") }}</text>
    <path v-if="target" :d="curve(TOP + target * scale)" class="target" />
    <path :d="curve(deep)" class="run" :class="shape" />
    <path :d="`M190 ${TOP}V${deep}`" class="measure" />
    <circle cx="190" :cy="deep" r="18" class="grip" />
    <text x="216" :y="deep + 6" class="value">{{ t("reading.mm", { v: model }) }}</text>
  </svg>
</template>

<style scoped>
.span { width: 100%; max-width: 460px; touch-action: none; cursor: ns-resize; user-select: none; }
.wheel { fill: var(--steel); stroke: var(--ink); stroke-width: 2; } .edge { stroke: var(--deep); stroke-width: 3; stroke-dasharray: 10 5; }
.run { fill: none; stroke: var(--ink); stroke-width: 5; } .run.sag { stroke-width: 11; stroke-dasharray: 22 4; }
.target { fill: none; stroke: var(--sound); stroke-width: 3; stroke-dasharray: 4 6; } .measure { stroke: var(--here); stroke-width: 3; } .grip { fill: var(--here); }
text { font-size: 15px; text-anchor: middle; fill: var(--soft); } .value { text-anchor: start; font-size: 19px; font-weight: 620; fill: var(--ink); }
</style>
