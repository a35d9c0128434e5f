<script setup lang="ts">
import { computed } from "vue";
import { useI18n } from "vue-i18n";

import { useDragged } from "../useDragged";

/** A sight tube, a dipstick or a tank: the line is dragged. `ghost`: where it would stand as it is meant to be read. */
const props = defineProps<{ name: string; shape: "tube" | "stick" | "tank"; ghost?: number | null }>();
const model = defineModel<number>({ required: true });
const { t } = useI18n();

const W = 280,
  H = 250;
// Two marks with room below and above; a tank runs from empty to full.
const tank = computed(() => props.shape === "tank");
const LOW = computed(() => (tank.value ? 226 : 158));
const FULL = computed(() => (tank.value ? 26 : 68));
const range = () => (tank.value ? { low: 0, high: 1, step: 0.02 } : { low: -1, high: 1.5, step: 0.02 });
const toY = (f: number) => LOW.value - f * (LOW.value - FULL.value);
const { on } = useDragged(model, range, { width: W, height: H }, (_, y) => (LOW.value - y) / (LOW.value - FULL.value));
const line = computed(() => toY(model.value));
const ghostY = computed(() => (props.ghost == null ? null : toY(Math.min(1.5, Math.max(-1, props.ghost)))));
const says = computed(() => t("reading.level", { f: Math.round(model.value * 100) }));
</script>

<template>
  <svg
    :viewBox="`0 0 ${W} ${H}`"
    class="level"
    role="slider"
    tabindex="0"
    :aria-label="name"
    :aria-valuemin="range().low"
    :aria-valuemax="range().high"
    :aria-valuenow="model"
    :aria-valuetext="says"
    data-test="level"
    v-on="on">
    <template v-if="shape === 'stick'">
      <path d="M70 6h20v232q-10 10-20 0Z" class="blade" />
      <path :d="`M70 ${line}h20V238q-10 10-20 0Z`" class="oil" />
      <path :d="`M70 ${FULL}h20M70 ${LOW}h20M74 ${FULL + 15}l12 12M74 ${FULL + 33}l12 12M74 ${FULL + 51}l12 12`" class="cut" />
    </template>
    <template v-else>
      <rect :x="tank ? 64 : 58" y="14" :width="tank ? 84 : 44" height="222" :rx="tank ? 14 : 22" class="wall" />
      <clipPath :id="`bore-${shape}`">
        <rect :x="tank ? 64 : 58" y="14" :width="tank ? 84 : 44" height="222" :rx="tank ? 14 : 22" />
      </clipPath>
      <rect x="20" :y="line" width="130" :height="Math.max(0, 240 - line)" :clip-path="`url(#bore-${shape})`" class="oil" />
      <rect :x="tank ? 64 : 58" y="14" :width="tank ? 84 : 44" height="222" :rx="tank ? 14 : 22" class="rim" />
    </template>
    <path v-if="!tank" :d="`M46 ${FULL}h64M46 ${LOW}h64`" class="mark" />
    <text :x="tank ? 58 : 38" :y="FULL + 6" class="end">{{ t(tank ? "reading.full" : "glass.full") }}</text>
    <text :x="tank ? 58 : 38" :y="LOW + 6" class="end">{{ t(tank ? "reading.empty" : "glass.low") }}</text>
    <g v-if="ghostY != null" class="ghost">
      <path :d="`M44 ${ghostY}H126`" />
      <text x="132" :y="ghostY + (Math.abs(ghostY - line) < 26 ? (ghostY < line ? -14 : 26) : 5)">{{ t("reading.ghost") }}</text>
    </g>
    <g :transform="`translate(0 ${line})`" class="grip">
      <path d="M44 0H150" />
      <circle cx="162" cy="0" r="18" />
    </g>
  </svg>
</template>

<style scoped>
.level { width: 100%; max-width: 320px; touch-action: none; cursor: ns-resize; user-select: none; }
.wall { fill: var(--paper); } .rim { fill: none; stroke: var(--ink); stroke-width: 2.4; }
.blade { fill: var(--paper); stroke: var(--ink); stroke-width: 2; }
.cut { stroke: var(--ink); stroke-width: 2; fill: none; }
.oil { fill: var(--oil); }
.mark { stroke: var(--ink); stroke-width: 1.8; stroke-dasharray: 5 4; }
text { font-size: 15px; fill: var(--ink); } .end { text-anchor: end; }
.ghost path { stroke: var(--deep); stroke-width: 3; stroke-dasharray: 7 5; } .ghost text { fill: var(--deep); font-size: 14px; }
.grip path { stroke: var(--here); stroke-width: 4.5; } .grip circle { fill: var(--here); }
</style>
