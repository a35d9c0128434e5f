<script setup lang="ts">
import { computed } from "vue";
import { useI18n } from "vue-i18n";

import type { Schemas } from "../api/client";
import MachinePlan from "./MachinePlan.vue";

const props = defineProps<{ view: Schemas["ViewOut"]; drawing: Schemas["DrawingOut"] }>();
const { t } = useI18n();

/** The seat is in the middle of the cab as it is drawn. */
const seat = computed(() => {
  const cab = props.drawing.shapes.find((s) => s.role === "cab")?.points ?? [[0, 0]];
  const middle = (n: number) => (Math.min(...cab.map((p) => p[n]!)) + Math.max(...cab.map((p) => p[n]!))) / 2;
  return { x: middle(0), y: -middle(1) };
});
const box = computed(() => {
  const points = props.drawing.shapes.flatMap((s) => s.points);
  const { x, y } = seat.value;
  const reach = Math.max(...points.map(([px, py]) => Math.hypot(px! - x, -py! - y))) * 1.12;
  return { reach, view: `${x - reach * 1.06} ${y - reach * 1.06} ${reach * 2.12} ${reach * 2.12}` };
});

/** Ahead is to the right, as on every plan here; directions run clockwise. */
function wedge([from, to]: number[]): string {
  const { x, y } = seat.value;
  const r = box.value.reach;
  const round = wide([from!, to!]);
  const at = (deg: number) => `${x + r * Math.cos((deg * Math.PI) / 180)} ${y + r * Math.sin((deg * Math.PI) / 180)}`;
  if (round === 360) return `M${at(from!)}A${r} ${r} 0 1 1 ${at(from! + 180)}A${r} ${r} 0 1 1 ${at(from!)}Z`;
  return `M${x} ${y}L${at(from!)}A${r} ${r} 0 ${round > 180 ? 1 : 0} 1 ${at(from! + round)}Z`;
}
const wide = ([from, to]: number[]) => (((to! - from!) % 360) + 360) % 360 || 360;
const gap = computed(() => [...props.view.seen, ...props.view.lost].reduce((sum, arc) => sum + wide(arc), 0) < 360);
const sides = computed(() => props.view.sides.join(", "));
</script>

<template>
  <section class="card view-lost" data-test="view-lost">
    <svg :viewBox="box.view" role="img" :aria-label="t('verdict.viewLost', { sides })">
      <defs>
        <pattern id="lost" width="9" height="9" patternUnits="userSpaceOnUse" :patternTransform="`scale(${box.reach / 260}) rotate(45)`">
          <rect width="4.5" height="9" class="stripe" />
        </pattern>
      </defs>
      <path v-for="arc in view.seen" :key="`s${arc[0]}`" :d="wedge(arc)" class="seen" />
      <path v-for="arc in view.lost" :key="`l${arc[0]}`" :d="wedge(arc)" class="lost" fill="url(#lost)" />
      <MachinePlan :drawing="drawing" />
      <circle :cx="seat.x" :cy="seat.y" :r="box.reach / 36" class="seat" />
    </svg>
    <div class="stack">
      <h2 class="h3">{{ t("verdict.viewLost", { sides }) }}</h2>
      <ul class="legend">
        <li>
          <svg viewBox="0 0 28 20" aria-hidden="true">
            <rect width="28" height="20" class="lost" fill="none" />
            <path d="M0 9L9 0M0 20L20 0M9 20L28 1M19 20L28 11" class="hatch" /></svg
          >{{ t("verdict.viewGone") }}
        </li>
        <li>
          <svg viewBox="0 0 28 20" aria-hidden="true"><rect width="28" height="20" class="seen" /></svg>{{ t("verdict.viewSeen") }}
        </li>
        <li v-if="gap">
          <svg viewBox="0 0 28 20" aria-hidden="true"><rect x=".5" y=".5" width="27" height="19" class="never" /></svg
          >{{ t("verdict.viewNever") }}
        </li>
      </ul>
      <ul class="aids">
        <li v-for="a in view.aids" :key="a.checkpoint" :class="{ blind: a.blind }">
          {{ a.name }}: {{ t(a.blind ? "verdict.aidBlind" : "verdict.aidShows") }}
        </li>
      </ul>
    </div>
  </section>
</template>

<style scoped>
.view-lost { display: grid; grid-template-columns: minmax(0, 380px) 1fr; gap: 24px; align-items: center; }
.view-lost > svg { width: 100%; display: block; }
.seen { fill: var(--sound); opacity: 0.16; }
.lost { stroke: var(--hold); stroke-width: 2; vector-effect: non-scaling-stroke; }
.stripe { fill: var(--hold); opacity: 0.75; }
.seat { fill: var(--ink); }
.never { fill: none; stroke: var(--soft); }
.legend, .aids { list-style: none; padding: 0; margin: 0; display: grid; gap: 6px; font-size: 17px; }
.legend li { display: flex; align-items: center; }
.hatch { stroke: var(--hold); stroke-width: 2.5; }
.legend svg { flex: none; width: 28px; height: 20px; margin-right: 10px; vertical-align: middle; }
.blind { font-weight: 700; }
@media (max-width: 700px) { .view-lost { grid-template-columns: 1fr; } }
</style>
