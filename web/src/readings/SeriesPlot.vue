<script setup lang="ts">
import { computed } from "vue";
import { useI18n } from "vue-i18n";

import type { Schemas } from "../api/client";
import { day } from "../app/times";
import { useSession } from "../app/session";
import { roundUp } from "./useDragged";
import { fromShown, outcome, toShown } from "./units";

/** A unit's readings of one thing over time; the band is what was usual before the last one. */
const props = defineProps<{ series: Schemas["SeriesOut"] }>();
const { t } = useI18n();
const session = useSession();
const W = 520,
  H = 190,
  LEFT = 66,
  RIGHT = 508,
  TOP = 14,
  BOTTOM = 152;

const times = computed(() => props.series.points.map((p) => Date.parse(p.at)));
/** The day it is at its limit, if that is near enough to be drawn beside what was read. */
const ahead = computed(() => {
  const at = props.series.reaches ? Date.parse(props.series.reaches) : null;
  return at !== null && at - times.value.at(-1)! <= (times.value.at(-1)! - times.value[0]!) * 2 ? at : null;
});
const extent = computed(() => {
  const { points, low: usual, high: most, limit } = props.series;
  const values = [...points.map((p) => p.value), ...(usual == null ? [] : [usual, most!]), ...(limit == null ? [] : [limit])];
  const low = Math.min(...values),
    high = Math.max(...values);
  const pad = Math.max((high - low) * 0.12, Math.abs(high) * 0.02, 1e-6);
  return { low: low - pad, high: high + pad };
});
const x = (at: number) => {
  const first = times.value[0]!,
    last = ahead.value ?? times.value.at(-1)!;
  return last === first ? (LEFT + RIGHT) / 2 : LEFT + ((at - first) / (last - first)) * (RIGHT - LEFT);
};
const y = (v: number) => BOTTOM - ((v - extent.value.low) / (extent.value.high - extent.value.low)) * (BOTTOM - TOP);
const line = computed(() =>
  props.series.points.map((p, n) => `${n ? "L" : "M"}${x(times.value[n]!).toFixed(1)} ${y(p.value).toFixed(1)}`).join(""),
);
const level = computed(() => props.series.unit === "" && ["stick", "tube", "glass"].includes(props.series.control));
/** Round figures, in the unit that is shown. */
const ticks = computed(() => {
  const { low, high } = extent.value;
  const [a, b] = [toShown(low, props.series.us), toShown(high, props.series.us)];
  const step = roundUp((b - a) / 4);
  return Array.from({ length: 6 }, (_, n) => (Math.ceil(a / step) + n) * step)
    .filter((v) => v <= b)
    .map((v) => ({ v, y: y(fromShown(v, props.series.us)) }));
});
const last = computed(() => props.series.points.at(-1)!);
const label = computed(() =>
  t("reading.plot", {
    what: `${props.series.place}, ${props.series.title}`,
    n: props.series.points.length,
    last: outcome(last.value.value, props.series.unit, props.series.us, props.series.control),
  }),
);
const tick = (v: number) => (level.value ? `${Math.round(v * 100)} %` : Number(v.toPrecision(3)));
</script>

<template>
  <figure>
    <svg :viewBox="`0 0 ${W} ${H}`" role="img" :aria-label="label" data-test="plot">
      <rect
        v-if="series.low != null"
        :x="LEFT"
        :y="y(series.high!)"
        :width="RIGHT - LEFT"
        :height="Math.max(1, y(series.low) - y(series.high!))"
        class="usual" />
      <g v-for="k in ticks" :key="k.v">
        <path :d="`M${LEFT} ${k.y}H${RIGHT}`" class="grid" />
        <text :x="LEFT - 8" :y="k.y + 5" class="end">{{ tick(k.v) }}</text>
      </g>
      <g v-if="series.limit != null" class="limit">
        <path :d="`M${LEFT} ${y(series.limit)}H${RIGHT}`" />
        <text :x="RIGHT" :y="y(series.limit) - 6" class="end">{{ t("reading.limit") }}</text>
        <path v-if="ahead" class="to" :d="`M${x(times.at(-1)!)} ${y(last.value)}L${x(ahead)} ${y(series.limit)}`" />
      </g>
      <path :d="line" class="line" />
      <g
        v-for="(p, n) in series.points"
        :key="p.entry"
        :transform="`translate(${x(times[n]!)} ${y(p.value)})`"
        class="point"
        :class="p.band">
        <circle v-if="p.band === 'in-band'" r="5.5" />
        <path v-else-if="p.band === 'act'" d="M-7 6L0-7L7 6Z" />
        <path v-else d="M-6-6H6V6H-6Z" />
      </g>
      <text :x="LEFT" :y="H - 10">{{ day(series.points[0]!.at, session.zone) }}</text>
      <text :x="RIGHT" :y="H - 10" class="end">{{ day(ahead ? series.reaches! : last.at, session.zone) }}</text>
    </svg>
    <figcaption v-if="series.reaches" data-test="reaches">{{ t("reading.reaches", { at: day(series.reaches, session.zone) }) }}</figcaption>
    <figcaption v-if="series.unusual">
      <b>{{ t("reading.unusual") }}</b>
    </figcaption>
    <figcaption v-else-if="series.low == null" class="quiet">{{ t("reading.fewPoints", { n: series.points.length }) }}</figcaption>
  </figure>
</template>

<style scoped>
figure { margin: 0; } svg { width: 100%; max-width: 640px; }
.usual { fill: var(--sound); opacity: 0.13; } .grid { stroke: var(--line); } .line { fill: none; stroke: var(--deep); stroke-width: 2.4; }
.limit path { stroke: var(--hold); stroke-width: 2; } .limit .to { stroke: var(--deep); stroke-dasharray: 6 6; }
.point { fill: var(--sound); stroke: var(--card); stroke-width: 1.5; } .act { fill: var(--mend); } .stop { fill: var(--hold); } .refused { fill: var(--limit); }
text { font-size: 15px; fill: var(--soft); } .end { text-anchor: end; } figcaption { font-size: 16px; }
</style>
