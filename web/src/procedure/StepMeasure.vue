<script setup lang="ts">
import { ElDialog } from "element-plus";
import { computed, ref } from "vue";
import { useI18n } from "vue-i18n";

import { useInstruments, useReadings, useSeries, useWholeMachine } from "../data/queries";
import { contextOf } from "../readings/context";
import ReadingForm from "../readings/ReadingForm.vue";
import UnitsButton from "../readings/UnitsButton.vue";
import { outcome } from "../readings/units";
import type { Kept, Values } from "../readings/useReading";
import { NO_CONDITIONS } from "../walkaround/useWalk";
import type { Step, UseRun } from "./useRun";

/** What a test may be measured with: the figure is judged by the machine's own limits and speaks over a word. */
const props = defineProps<{ step: Step; machine: string; r: UseRun }>();
const { t } = useI18n();
const { data: whole } = useWholeMachine(props.machine);
const { data: list } = useReadings();
const { data: series } = useSeries(props.machine);
const { data: instruments } = useInstruments(props.machine);
const open = ref("");
const checkpoint = computed(() => whole.value?.checkpoints.find((c) => c.id === props.step.checkpoint) ?? null);
const bound = computed(() => (checkpoint.value?.readings ?? []).filter((b) => props.step.measures.includes(b.reading)));
const shown = computed(() => bound.value.find((b) => b.reading === open.value) ?? null);
const listed = computed(() => list.value?.find((x) => x.key === open.value) ?? null);
const context = computed(() =>
  listed.value
    ? contextOf(listed.value, {
        conditions: NO_CONDITIONS,
        told: false,
        hours: 0,
        checkpoint: props.step.checkpoint,
        series: series.value ?? [],
        instruments: instruments.value ?? [],
        say: (k, v) => t(k, v ?? {}),
      })
    : { first: {}, from: {} },
);
/** The newest of each reading: it is what counts. */
const newest = computed(() => [...new Map(props.step.taken.map((m) => [m.reading, m])).values()]);
const usOf = (key: string) => series.value?.find((s) => s.key === key)?.us ?? null;
async function keep(given: Kept, told: Record<string, number>) {
  const what = {
    kind: "read",
    checkpoint: props.step.checkpoint,
    reading: open.value,
    given,
    reason: "",
    amends: "",
    put_right: null,
    told,
  } as const;
  // What was measured before is seen above, and this takes its place; what another hand measured meanwhile stays.
  const seen = props.step.taken.filter((m) => m.reading === open.value).map((m) => m.entry);
  if (await props.r.add(what, seen)) open.value = "";
}
</script>

<template>
  <div class="stack" data-test="step-measure">
    <p v-for="m in newest" :key="m.reading" class="row wrap" :class="{ fails: m.fails }" :data-test="`measured-${m.reading}`">
      <b v-if="m.value !== null" class="figure">{{
        outcome(m.value, m.unit, usOf(m.reading), bound.find((b) => b.reading === m.reading)?.control ?? "")
      }}</b><span>{{ m.says }}</span>
    </p>
    <div class="row wrap">
      <button
        v-for="b in bound"
        :key="b.reading"
        type="button"
        class="button"
        :data-test="`measure-${b.reading}`"
        @click="open = b.reading">
        {{ t("run.measure", { what: b.title }) }}
      </button>
    </div>
    <ElDialog
      :model-value="open !== ''"
      width="min(940px, 96vw)"
      top="3vh"
      :title="shown?.title ?? ''"
      destroy-on-close
      @update:model-value="open = ''">
      <div v-if="listed" class="stack" data-test="reading-dialog">
        <UnitsButton /><ReadingForm
          :listed="listed"
          :devices="instruments ?? []"
          :known="(shown?.known ?? {}) as Values"
          :first="context.first"
          :from="context.from"
          keepable
          @keep="keep" />
      </div>
      <p v-else class="quiet">{{ t("wait") }}</p>
    </ElDialog>
  </div>
</template>

<style scoped>
p { margin: 0; } .fails { border-left: 5px solid var(--hold); padding-left: 12px; font-weight: 620; } .figure { font-size: 24px; }
</style>
