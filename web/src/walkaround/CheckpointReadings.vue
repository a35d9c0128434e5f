<script setup lang="ts">
import { ElDialog, ElInput } from "element-plus";
import { computed, ref } from "vue";
import { useI18n } from "vue-i18n";

import { day } from "../app/times";
import { useSession } from "../app/session";
import { useInstruments, useReadings, useSeries } from "../data/queries";
import { contextOf } from "../readings/context";
import ReadingForm from "../readings/ReadingForm.vue";
import SeriesPlot from "../readings/SeriesPlot.vue";
import UnitsButton from "../readings/UnitsButton.vue";
import { outcome } from "../readings/units";
import type { Kept, Values } from "../readings/useReading";
import GradeMark from "../parts/GradeMark.vue";
import type { Mark } from "../parts/marks";
import type { Checkpoint, ReadWhat, useWalk } from "./useWalk";

/** What can be measured at a checkpoint, what was, and the page on which it is taken. */
const props = defineProps<{
  checkpoint: Checkpoint;
  machine: string;
  w: ReturnType<typeof useWalk>;
  keep: (what: ReadWhat) => Promise<boolean>;
}>();
const { t } = useI18n();
const session = useSession();
const { data: list } = useReadings();
const { data: series, refetch } = useSeries(props.machine);
const { data: instruments } = useInstruments(props.machine);
const open = ref("");
const done = ref("");
const reason = ref("");

const bound = computed(() => props.checkpoint.readings ?? []);
const taken = computed(() => props.w.readings.value.told.filter((r) => r.checkpoint === props.checkpoint.id));
const waiting = computed(() => props.w.readings.value.waiting.filter((r) => r.what.checkpoint === props.checkpoint.id));
const shown = computed(() => bound.value.find((b) => b.reading === open.value) ?? null);
const listed = computed(() => list.value?.find((r) => r.key === open.value) ?? null);
const mine = computed(() => series.value?.find((s) => s.checkpoint === props.checkpoint.id && s.key === open.value) ?? null);
/** What was found by this reading before: a better figure needs a word. */
const before = computed(() => taken.value.find((r) => r.key === open.value && r.finding) ?? null);
const mark = (key: string): Mark | null => {
  const r = taken.value.find((x) => x.key === key);
  if (!r?.finding) return null;
  return (
    props.w.seen.value?.verdict.items.find(
      (i) => i.checkpoint === props.checkpoint.id && i.finding.failure_mode === r.finding!.failure_mode,
    )?.grade ?? null
  );
};
const context = computed(() =>
  listed.value
    ? contextOf(listed.value, {
        conditions: props.w.conditions.value,
        told: props.w.opened.value !== null,
        hours: props.w.opened.value?.hour_meter ?? 0,
        checkpoint: props.checkpoint.id,
        series: series.value ?? [],
        instruments: instruments.value ?? [],
        say: (k, v) => t(k, v ?? {}),
      })
    : { first: {}, from: {} },
);

const usOf = (key: string) => series.value?.find((s) => s.key === key)?.us ?? null;

function begin(key: string) {
  done.value = "";
  reason.value = "";
  open.value = key;
}
async function keepIt(given: Kept, told: Record<string, number>) {
  const put_right = done.value.trim() ? { done: done.value.trim(), amount: "" } : null;
  const what: ReadWhat = {
    kind: "read",
    checkpoint: props.checkpoint.id,
    reading: open.value,
    given,
    reason: reason.value.trim(),
    amends: "",
    put_right,
    told,
  };
  if (await props.keep(what)) {
    open.value = "";
    setTimeout(() => void refetch(), 1500);
  }
}
</script>

<template>
  <div class="readings">
    <div v-for="b in bound" :key="b.reading" class="line">
      <button type="button" class="button measure" :data-test="`read-${checkpoint.id}-${b.reading}`" @click="begin(b.reading)">
        {{ b.title }}
      </button>
      <template v-for="r in taken.filter((x) => x.key === b.reading)" :key="r.entry">
        <GradeMark v-if="mark(b.reading)" :mark="mark(b.reading)!" :size="28" />
        <span :data-test="`taken-${checkpoint.id}-${b.reading}`"
          ><b v-if="r.value != null">{{ outcome(r.value, r.unit, usOf(r.key), b.control) }}</b> {{ r.judgement.action }}</span
        >
      </template>
      <span v-if="waiting.some((x) => x.what.reading === b.reading)" class="quiet">{{ t("reading.waiting") }}</span>
    </div>
    <ElDialog
      :model-value="open !== ''"
      width="min(940px, 96vw)"
      top="3vh"
      :title="`${checkpoint.name}: ${shown?.title ?? ''}`"
      destroy-on-close
      @update:model-value="open = ''">
      <div v-if="listed" class="stack" data-test="reading-dialog">
        <UnitsButton />
        <ReadingForm
          :listed="listed"
          :devices="instruments ?? []"
          :known="(shown?.known ?? {}) as Values"
          :first="context.first"
          :from="context.from"
          keepable
          @keep="keepIt" />
        <template v-if="before">
          <p class="before">{{ t("reading.before", { what: before.judgement.action }) }}</p>
          <label>{{ t("reading.putRight") }}<ElInput v-model="done" maxlength="200" data-test="read-put-right" /></label>
          <label>{{ t("reading.reason") }}<ElInput v-model="reason" maxlength="200" data-test="read-reason" /></label>
        </template>
        <section v-if="mine?.points.length">
          <h3>{{ t("reading.lastThree") }}</h3>
          <p v-for="p in mine.points.slice(-3).reverse()" :key="p.entry">
            {{ day(p.at, session.zone) }}: <b>{{ outcome(p.value, mine.unit, mine.us, mine.control) }}</b> · {{ p.by }}
          </p>
          <SeriesPlot v-if="mine.points.length > 1" :series="mine" />
        </section>
      </div>
      <p v-else class="quiet">{{ t("wait") }}</p>
    </ElDialog>
  </div>
</template>

<style scoped>
.readings { display: flex; flex-wrap: wrap; gap: 10px; margin-top: 10px; }
.line:has(span) { flex-basis: 100%; }
.line { display: flex; gap: 12px; align-items: center; flex-wrap: wrap; font-size: 16px; }
.measure { padding: 6px 14px; font-weight: 500; font-size: 16px; }
.before { border-left: 5px solid var(--mend); padding-left: 12px; }
label { display: grid; gap: 4px; }
</style>
