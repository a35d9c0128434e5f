<script setup lang="ts">
import { useElementSize } from "@vueuse/core";
import { computed, ref } from "vue";
import { useI18n } from "vue-i18n";

import type { Schemas } from "../api/client";
import MachinePlan from "../parts/MachinePlan.vue";
import MarkShape from "../parts/MarkShape.vue";
import type { Mark } from "../parts/marks";
import { useFingers, type MapView } from "./useMapView";
import { plannedWay, type Step } from "./way";

export interface Pin {
  checkpoint: string;
  mark: Mark;
  x: number;
  y: number;
  z: number;
  earlier: boolean;
}

const props = defineProps<{
  walk: Schemas["WalkOut"];
  here: string;
  done: Set<string>;
  pins: Pin[];
  way?: Step[];
  /** The other person's stations, when two share the walk. */
  other?: Set<string>;
  spot?: { x: number; y: number; part?: string } | null;
  dots?: { id: string; x: number; y: number; on: boolean }[];
  /** How it is looked at, where it can be moved. */
  view?: MapView;
}>();
const emit = defineEmits<{ go: [station: string] }>();
const { t } = useI18n();

const steps = computed(() => props.way ?? plannedWay(props.walk));
const bounds = computed(() => {
  const [x0, y0, x1, y1] = props.walk.drawing.bounds;
  const xs = steps.value.flatMap((s) => [s.station.at[0], ...s.line.map((p) => p[0]!)]);
  const ys = steps.value.flatMap((s) => [s.station.at[1], ...s.line.map((p) => p[1]!)]);
  return { x0: Math.min(x0, ...xs) - 0.6, x1: Math.max(x1, ...xs) + 0.6, y0: Math.min(y0, ...ys) - 1, y1: Math.max(y1, ...ys) + 0.6 };
});
const turn = computed(() => props.view?.turn ?? 0);
/** The middle of the whole, and what of it is shown: turned, it needs other room. */
const shown = computed(() => {
  const b = bounds.value;
  const [w, h, a] = [b.x1 - b.x0, b.y1 - b.y0, (turn.value * Math.PI) / 180];
  const zoom = props.view?.zoom ?? 1;
  return {
    cx: (b.x0 + b.x1) / 2,
    cy: -(b.y0 + b.y1) / 2,
    w: (Math.abs(w * Math.cos(a)) + Math.abs(h * Math.sin(a))) / zoom,
    h: (Math.abs(w * Math.sin(a)) + Math.abs(h * Math.cos(a))) / zoom,
  };
});
const box = computed(() => {
  const { cx, cy, w, h } = shown.value;
  return `${cx + (props.view?.x ?? 0) - w / 2} ${cy + (props.view?.y ?? 0) - h / 2} ${w} ${h}`;
});
const map = ref<SVGSVGElement | null>(null);
const { width, height } = useElementSize(map);
/** Metres that one pixel shows: numbers and targets keep their size on a small screen. */
const metre = computed(() => (width.value ? Math.max(shown.value.w / width.value, shown.value.h / height.value) : 0.012));
const fingers = useFingers(() => props.view, metre);
/** Figures and marks stand upright however the plan is turned. */
const upright = computed(() => `rotate(${-turn.value})`);
const size = computed(() => ({
  dot: 13 * metre.value,
  text: 14.5 * metre.value,
  touch: 24 * metre.value,
  halo: 20 * metre.value,
  mark: 11.7 * metre.value,
  small: 14.5 * metre.value,
  place: 3.6 * metre.value,
  spot: 15 * metre.value,
}));
const hereAt = computed(() => steps.value.findIndex((s) => s.station.id === props.here));
const next = computed(() =>
  !props.way ? null : (steps.value.slice(hereAt.value + 1).find((s) => !s.walked && !props.other?.has(s.station.id)) ?? null),
);
const line = (points: number[][]) => points.map(([x, y]) => `${x},${-y!}`).join(" ");
/** Stations drawn one upon the other (a ladder over its foot) are set apart, so that each can be tapped. */
const at = computed(() => {
  const placed: [number, number][] = [];
  return steps.value.map(({ station }) => {
    let [x, y] = station.at;
    const gap = size.value.dot * 2.05;
    for (const [px, py] of placed) {
      const d = Math.hypot(x - px, y - py);
      if (d < gap) {
        const [ux, uy] = d > 0.01 ? [(x - px) / d, (y - py) / d] : [0, -1];
        x = px + ux * gap;
        y = py + uy * gap;
      }
    }
    placed.push([x, y]);
    return { x, y };
  });
});
</script>

<template>
  <svg
    ref="map"
    :viewBox="box"
    class="map"
    :class="{ held: view && view.zoom > 1 }"
    role="group"
    :aria-label="t('walk.map', { name: walk.machine.name })"
    @pointerdown="fingers.pointerdown"
    @pointermove="fingers.pointermove"
    @pointerup="fingers.pointerup"
    @pointercancel="fingers.pointercancel"
    @pointerleave="fingers.pointerup"
    @click.capture="fingers.click"
    @wheel="fingers.wheel">
    <g :transform="`rotate(${turn} ${shown.cx} ${shown.cy})`">
      <MachinePlan :drawing="walk.drawing" :lit="spot?.part" />
      <g fill="none" aria-hidden="true">
        <polyline
          v-for="s in steps"
          :key="s.station.id"
          :points="line(s.line)"
          class="leg"
          :class="{
            walked: s.walked || s.station.id === here,
            climb: s.station.level === 'deck' || s.station.level === 'cab',
            next: s === next,
            other: other?.has(s.station.id),
          }" />
      </g>
      <g aria-hidden="true">
        <circle v-for="d in dots ?? []" :key="d.id" :cx="d.x" :cy="-d.y" :r="size.place" class="place" :class="{ on: d.on }" />
      </g>
      <g v-if="spot" aria-hidden="true"><circle :cx="spot.x" :cy="-spot.y" :r="size.spot" class="spot" /></g>
      <g
        v-for="(s, i) in steps"
        :key="s.station.id"
        class="station"
        :data-test="`st-${s.station.id}`"
        :class="{
          here: s.station.id === here,
          next: s === next,
          done: done.has(s.station.id),
          blocked: s.blocked,
          other: other?.has(s.station.id),
        }"
        tabindex="0"
        role="button"
        :aria-label="t(s.blocked ? 'walk.stationBlocked' : 'walk.station', { n: i + 1, name: s.station.name })"
        :aria-current="s.station.id === here || undefined"
        :transform="`translate(${at[i]!.x} ${-at[i]!.y}) ${upright}`"
        @click="emit('go', s.station.id)"
        @keydown.enter.prevent="emit('go', s.station.id)"
        @keydown.space.prevent="emit('go', s.station.id)">
        <circle :r="size.touch" class="touch" />
        <circle v-if="s.station.id === here || s === next" :r="size.halo" class="halo" />
        <circle :r="size.dot" class="dot" />
        <text text-anchor="middle" :y="size.text * 0.36" :font-size="size.text">{{ i + 1 }}</text>
        <path v-if="s.blocked" :d="`M${-size.dot} ${size.dot}L${size.dot} ${-size.dot}`" class="bar" />
      </g>
      <g
        v-for="p in pins"
        :key="p.checkpoint"
        :opacity="p.earlier ? 0.9 : 1"
        aria-hidden="true"
        pointer-events="none"
        :transform="`translate(${p.x} ${-p.y}) ${upright}`">
        <MarkShape :mark="p.mark" :x="0" :y="0" :r="size.mark" />
      </g>
    </g>
    <g
      v-if="!view || (view.zoom === 1 && view.turn === 0)"
      :transform="`translate(${bounds.x1 - 2.5} ${-bounds.y0 - 0.2})`"
      aria-hidden="true"
      class="scale">
      <path d="M0 -.1V.1M0 0H2M2 -.1V.1" />
      <text x="1" y="-0.14" text-anchor="middle" :font-size="size.small">{{ t("walk.scale") }}</text>
    </g>
  </svg>
</template>

<style scoped>
.map { width: 100%; height: 100%; display: block; background-image: linear-gradient(var(--grid) 1px, transparent 1px), linear-gradient(90deg, var(--grid) 1px, transparent 1px); background-size: 48px 48px; touch-action: pan-x pan-y; user-select: none; }
.map.held { touch-action: none; cursor: grab; }
.leg { stroke: var(--deep); stroke-width: 3; stroke-dasharray: 3 8; stroke-linecap: round; stroke-linejoin: round; vector-effect: non-scaling-stroke; }
.leg.walked { stroke-width: 5; stroke-dasharray: none; }
.leg.next { stroke: var(--here); stroke-width: 5; stroke-dasharray: 2 9; }
.leg.climb { stroke-width: 2; stroke-dasharray: 2 5; opacity: 0.6; }
.leg.other { stroke: var(--soft); stroke-width: 2; }
.station { cursor: pointer; outline: none; }
.touch { fill: transparent; }
.dot { fill: var(--card); stroke: var(--deep); stroke-width: 2.4; vector-effect: non-scaling-stroke; }
.station text { fill: var(--deep); font-weight: 720; }
.done .dot { fill: var(--deep); }
.done text { fill: var(--on-deep); }
.other .dot { stroke: var(--soft); stroke-dasharray: 3 3; }
.other.done .dot { fill: var(--soft); }
.here .dot { fill: var(--here); stroke: var(--here); }
.here text { fill: var(--on-grade); }
.halo { fill: var(--here-soft); stroke: var(--here); stroke-width: 2.5; vector-effect: non-scaling-stroke; }
.next .halo { fill: none; stroke-dasharray: 4 4; }
.station:focus-visible .dot { stroke: var(--here); stroke-width: 6; }
.bar { stroke: var(--hold); stroke-width: 4; vector-effect: non-scaling-stroke; }
.place { fill: var(--card); stroke: var(--ink); stroke-width: 1.3; vector-effect: non-scaling-stroke; }
.place.on { fill: var(--ink); }
.spot { fill: none; stroke: var(--here); stroke-width: 3; stroke-dasharray: 4 3; vector-effect: non-scaling-stroke; }
.scale path { stroke: var(--ink); stroke-width: 1.6; vector-effect: non-scaling-stroke; fill: none; }
.scale text { fill: var(--soft); }
</style>
