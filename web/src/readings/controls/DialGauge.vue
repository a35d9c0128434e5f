<script setup lang="ts">
import { computed } from "vue";

import type { Schemas } from "../../api/client";
import { roundUp, useDragged } from "../useDragged";
import { digits, shownUnit, told, toShown } from "../units";
import { figure } from "../../app/language";

/** A round gauge: the needle is dragged. `target`: the figure it should show; `limit`: the one it must not pass. */
const props = defineProps<{
  name: string;
  unit: string;
  us: Schemas["OtherUnitOut"] | null;
  low: number;
  high: number;
  start: number;
  target?: number;
  limit?: number;
}>();
const model = defineModel<number>({ required: true });

const top = computed(() => Math.min(props.high, roundUp(Math.max(props.target ?? 0, props.limit ?? 0, props.start) * 1.5)));
const bottom = computed(() =>
  props.low < 0
    ? Math.max(props.low, -top.value)
    : props.start > 3 * (props.high - props.start)
      ? props.low
      : Math.min(0, Math.max(props.low, 0)),
);
const step = computed(() => Math.max((top.value - bottom.value) / 200, 0.01));
const W = 240,
  H = 226,
  X = 120,
  Y = 122,
  R = 96;
const SWEEP = 240;
const angle = (v: number) => ((Math.min(top.value, Math.max(bottom.value, v)) - bottom.value) / (top.value - bottom.value)) * SWEEP - 210;
const at = (v: number, r: number) => {
  const a = (angle(v) * Math.PI) / 180;
  return { x: X + r * Math.cos(a), y: Y + r * Math.sin(a) };
};
const { on } = useDragged(
  model,
  () => ({ low: bottom.value, high: top.value, step: step.value }),
  { width: W, height: H },
  (x, y) => {
    const a = (Math.atan2(y - Y, x - X) * 180) / Math.PI;
    const turned = (((a + 210) % 360) + 360) % 360;
    const share = turned > SWEEP ? (turned > SWEEP + (360 - SWEEP) / 2 ? 0 : 1) : turned / SWEEP;
    return bottom.value + share * (top.value - bottom.value);
  },
);
const ticks = computed(() => Array.from({ length: 6 }, (_, n) => bottom.value + (n * (top.value - bottom.value)) / 5));
const tick = (v: number) => {
  const shown = toShown(v, props.us);
  return figure(shown, Math.abs(shown) < 10 && !Number.isInteger(shown) ? 1 : 0);
};
const big = computed(() => {
  const shown = toShown(model.value, props.us);
  return figure(shown, digits(shown));
});
</script>

<template>
  <svg
    :viewBox="`0 0 ${W} ${H}`"
    class="dial"
    role="slider"
    tabindex="0"
    :aria-label="name"
    :aria-valuemin="bottom"
    :aria-valuemax="top"
    :aria-valuenow="model"
    :aria-valuetext="told(model, unit, us)"
    data-test="dial"
    v-on="on">
    <circle :cx="X" :cy="Y" :r="R" class="face" />
    <path
      v-if="target != null"
      :d="`M${at(target, R - 16).x} ${at(target, R - 16).y}L${at(target, R + 8).x} ${at(target, R + 8).y}`"
      class="target" />
    <path
      v-if="limit != null"
      :d="`M${at(limit, R - 16).x} ${at(limit, R - 16).y}L${at(limit, R + 8).x} ${at(limit, R + 8).y}`"
      class="limit" />
    <g v-for="v in ticks" :key="v">
      <path :d="`M${at(v, R - 8).x} ${at(v, R - 8).y}L${at(v, R).x} ${at(v, R).y}`" class="tick" />
      <text :x="at(v, R - 23).x" :y="at(v, R - 23).y + 5">{{ tick(v) }}</text>
    </g>
    <path :d="`M${X} ${Y}L${at(model, R - 12).x} ${at(model, R - 12).y}`" class="needle" />
    <circle :cx="X" :cy="Y" r="8" class="hub" />
    <circle :cx="at(model, R - 6).x" :cy="at(model, R - 6).y" r="15" class="handle" />
    <text :x="X" :y="Y + 52" class="value">{{ big }}</text>
    <text :x="X" :y="Y + 76" class="unit">{{ shownUnit(unit, us) }}</text>
  </svg>
</template>

<style scoped>
.dial { width: 100%; max-width: 300px; touch-action: none; cursor: grab; user-select: none; }
.face { fill: var(--paper); stroke: var(--ink); stroke-width: 2.4; }
.tick { stroke: var(--ink); stroke-width: 1.6; }
text { font-size: 15px; text-anchor: middle; fill: var(--soft); }
.value { font-size: 30px; fill: var(--ink); font-weight: 620; }
.unit { font-size: 16px; }
.needle { stroke: var(--here); stroke-width: 4.5; stroke-linecap: round; }
.hub { fill: var(--ink); }
.handle { fill: var(--here); opacity: 0.9; }
.target { stroke: var(--sound); stroke-width: 6; }
.limit { stroke: var(--hold); stroke-width: 6; }
</style>
