<script setup lang="ts">
import { computed } from "vue";
import { useI18n } from "vue-i18n";

import type { Schemas } from "../api/client";
import { day } from "../app/times";
import { useSession } from "../app/session";
import TimePlot from "../plot/TimePlot.vue";
import type { PlotRow } from "../plot/rows";
import { outcome, shownUnit, toShown } from "./units";

/** A unit's readings of one thing over time; the band is what was usual before the last one. */
const props = defineProps<{ series: Schemas["SeriesOut"]; file?: string }>();
const { t } = useI18n();
const session = useSession();
const level = computed(() => props.series.unit === "" && ["stick", "tube", "glass"].includes(props.series.control));
const shown = (v: number) => (level.value ? v * 100 : toShown(v, props.series.us));
const last = computed(() => props.series.points.at(-1)!);
/** The day it is at its limit, if that is near enough to be drawn beside what was read. */
const ahead = computed(() => {
  const { reaches, points } = props.series;
  if (!reaches) return undefined;
  const [first, end, at] = [points[0]!.at, last.value.at, reaches].map(Date.parse) as [number, number, number];
  return at - end <= (end - first) * 2 ? at : undefined;
});
const row = computed<PlotRow>(() => {
  const { low, high, limit } = props.series;
  return {
    key: props.series.key,
    name: `${props.series.place}: ${props.series.title}`,
    unit: level.value ? "%" : shownUnit(props.series.unit, props.series.us),
    points: props.series.points.map((p) => ({ at: Date.parse(p.at), value: shown(p.value), band: p.band, by: p.by })),
    ...(limit == null ? {} : { limit: shown(limit) }),
    ...(low == null || high == null
      ? {}
      : { usual: [shown(low), level.value ? Math.min(shown(high), 110) : shown(high)] as [number, number] }),
    ...(ahead.value === undefined ? {} : { ahead: ahead.value }),
  };
});
const events = computed(() =>
  props.series.happened.map((h) => ({ at: Date.parse(h.at), says: t(`plot.work.${h.work}`, { done: h.done, by: h.by }) })),
);
const label = computed(() =>
  t("reading.plot", {
    what: `${props.series.place}, ${props.series.title}`,
    n: props.series.points.length,
    last: outcome(last.value.value, props.series.unit, props.series.us, props.series.control),
  }),
);
</script>

<template>
  <div class="stack">
    <TimePlot :rows="[row]" :events="events" :label="label" v-bind="file ? { file } : {}" />
    <p v-if="series.reaches" data-test="reaches">{{ t("reading.reaches", { at: day(series.reaches, session.zone) }) }}</p>
    <p v-if="series.unusual">
      <b>{{ t("reading.unusual") }}</b>
    </p>
    <p v-else-if="series.low == null" class="quiet">{{ t("reading.fewPoints", { n: series.points.length }) }}</p>
  </div>
</template>
