<script setup lang="ts">
import { useElementSize } from "@vueuse/core";
import { computed, defineAsyncComponent, ref, watch } from "vue";
import { useI18n } from "vue-i18n";

import { useSession } from "../app/session";
import { day, dayAndTime } from "../app/times";
import { useTheme } from "../app/useTheme";
import { contentOf, saveFile } from "../parts/saveFile";
import { short } from "../readings/units";
import PlotTable from "./PlotTable.vue";
import { COLOURS, heightOf, optionOf, spanOf, type Palette } from "./option";
import { csv, type PlotEvent, type PlotRow } from "./rows";

/** One or more things over one time: zoomed by fingers, by keys and by buttons; as a table; as a file or a picture. */
const props = defineProps<{ rows: PlotRow[]; events: PlotEvent[]; label: string; file?: string; span?: [number, number] }>();
const VChart = defineAsyncComponent(() => import("./charts"));
const { t } = useI18n();
const session = useSession();
const { theme } = useTheme();
const frame = ref<HTMLElement | null>(null);
const chart = ref<{ dispatchAction: (a: object) => void; getDataURL: (o: object) => string } | null>(null);
const { width } = useElementSize(frame);
const ends = computed(() => spanOf(props.rows, props.span));
/** What is shown of it, in hundredths. */
const shown = ref<[number, number]>([0, 100]);
watch(ends, () => (shown.value = [0, 100]));
const zoomed = computed(() => shown.value[1] - shown.value[0] < 99.5);
const seen = computed(() => ((ends.value[1] - ends.value[0]) * (shown.value[1] - shown.value[0])) / 100);
const time = (at: number) => (seen.value < 4 * 86_400_000 ? dayAndTime : day)(new Date(at).toISOString(), session.zone);

const palette = computed(() => {
  void theme.value;
  const style = getComputedStyle(document.documentElement);
  return Object.fromEntries(COLOURS.map((c) => [c, style.getPropertyValue(`--${c}`).trim()])) as unknown as Palette;
});
const each = computed(() => (props.rows.length > 1 ? 92 : 170));
const option = computed(() =>
  optionOf(props.rows, {
    palette: palette.value,
    events: props.events,
    span: props.span,
    time,
    figure: short,
    words: { limit: t("reading.limit") },
    height: each.value,
    narrow: width.value < 520,
  }),
);

function show(from: number, to: number) {
  const wide = Math.min(100, Math.max(2, to - from));
  const start = Math.min(100 - wide, Math.max(0, from));
  chart.value?.dispatchAction({ type: "dataZoom", start, end: start + wide });
}
function zoom(by: number) {
  const [a, b] = shown.value,
    middle = (a + b) / 2,
    half = ((b - a) / 2) * by;
  show(middle - half, middle + half);
}
const move = (share: number) =>
  show(shown.value[0] + (shown.value[1] - shown.value[0]) * share, shown.value[1] + (shown.value[1] - shown.value[0]) * share);
function zoomedTo(event: unknown) {
  const e = event as { start?: number; end?: number; batch?: { start: number; end: number }[] };
  const at = e.batch?.[0] ?? e;
  if (at.start !== undefined && at.end !== undefined) shown.value = [at.start, at.end];
}
const KEYS: Record<string, () => void> = {
  "+": () => zoom(0.5),
  "-": () => zoom(2),
  ArrowLeft: () => move(-0.25),
  ArrowRight: () => move(0.25),
  "0": () => show(0, 100),
};
function key(e: KeyboardEvent) {
  const act = KEYS[e.key];
  if (!act || e.ctrlKey || e.metaKey || e.altKey) return;
  e.preventDefault();
  act();
}
const saveCsv = () => saveFile(`${props.file}.csv`, new Blob(["\ufeff", csv(props.rows, props.events)], { type: "text/csv" }));
function savePng() {
  const url = chart.value?.getDataURL({ type: "png", pixelRatio: 2, backgroundColor: palette.value.card });
  if (url) saveFile(`${props.file}.png`, contentOf(url));
}
</script>

<template>
  <figure ref="frame">
    <div
      role="img"
      :aria-label="label"
      tabindex="0"
      class="plot"
      data-test="plot"
      :style="{ height: `${heightOf(rows.length, each)}px` }"
      @keydown="key">
      <Suspense><VChart ref="chart" :option="option" autoresize @datazoom="zoomedTo" /></Suspense>
    </div>
    <div v-if="file" class="row wrap tools" role="group" :aria-label="t('plot.tools')">
      <button type="button" class="button" :aria-label="t('plot.in')" data-test="zoom-in" @click="zoom(0.5)">+</button>
      <button type="button" class="button" :aria-label="t('plot.out')" :disabled="!zoomed" data-test="zoom-out" @click="zoom(2)">−</button>
      <template v-if="zoomed">
        <button type="button" class="button" :aria-label="t('plot.earlier')" @click="move(-0.5)">←</button>
        <button type="button" class="button" :aria-label="t('plot.later')" @click="move(0.5)">→</button>
        <button type="button" class="button" data-test="zoom-all" @click="show(0, 100)">{{ t("plot.all") }}</button>
      </template>
      <button type="button" class="button plain" data-test="plot-csv" @click="saveCsv">{{ t("plot.csv") }}</button>
      <button type="button" class="button plain" data-test="plot-png" @click="savePng">{{ t("plot.png") }}</button>
    </div>
    <PlotTable v-if="file" :rows="rows" :events="events" />
  </figure>
</template>

<style scoped>
figure { margin: 0; min-width: 0; } .plot { width: 100%; } .tools { gap: 8px; margin-top: 6px; } .tools .button { padding: 4px 14px; }
</style>
