<script setup lang="ts">
import { computed, ref } from "vue";
import { useI18n } from "vue-i18n";

import { figure } from "../app/language";
import { useSession } from "../app/session";
import { dayAndTime } from "../app/times";
import type { Schemas } from "../api/client";
import { useCourse, useSays } from "../data/queries";
import TimePlot from "../plot/TimePlot.vue";
import type { PlotRow } from "../plot/rows";
import PageState from "../parts/PageState.vue";

/** How a machine's values went: each on its own scale with its red and amber, and when the machine warned. */
const props = defineProps<{ machine: string }>();
const { t } = useI18n();
const session = useSession();
const SPANS = [1, 10, 24, 168] as const;
const hours = ref<number>(10);
const { data, error, isFetching } = useCourse(props.machine, hours);
const says = useSays(error);
type Line = Schemas["CourseLineOut"];
const span = computed<[number, number]>(() => [Date.parse(data.value!.since), Date.parse(data.value!.until)]);
const ends = (l: Line) => [Math.min(...l.stretches.map((s) => s.low)), Math.max(...l.stretches.map((s) => s.high))] as const;
/** Where nothing was told for three stretches there is a gap. */
const rows = computed<PlotRow[]>(() =>
  (data.value?.lines ?? []).map((l) => ({
    key: l.key,
    name: l.name,
    title: `${l.name}: ${t("course.between", { low: figure(ends(l)[0], 0), high: figure(ends(l)[1], 0), unit: l.unit })}`,
    unit: l.unit,
    scale: [l.low, l.high],
    bands: l.bands,
    gap: ((span.value[1] - span.value[0]) / 240) * 3,
    points: l.stretches.map((s) => ({ at: Date.parse(s.at), value: (s.low + s.high) / 2, low: s.low, high: s.high })),
  })),
);
const events = computed(() => (data.value?.warned ?? []).map((w) => ({ at: Date.parse(w.at), says: w.says, colour: w.colour })));
</script>

<template>
  <div class="page stack">
    <div class="row spread wrap">
      <h1>{{ t("course.title", { name: machine.toUpperCase() }) }}</h1>
      <RouterLink class="button plain" :to="{ name: 'machine', params: { machine } }">{{ t("run.file") }}</RouterLink>
    </div>
    <div class="row wrap" role="group" :aria-label="t('course.span')">
      <button
        v-for="h in SPANS"
        :key="h"
        type="button"
        class="button"
        :class="{ chosen: hours === h }"
        :aria-pressed="hours === h"
        :data-test="`span-${h}`"
        @click="hours = h">
        {{ t(`course.h${h}`) }}
      </button>
    </div>
    <p v-if="data?.simulated" class="quiet" data-test="simulated">{{ t("panel.simulated") }}</p>
    <PageState :says="says" :waits="!data" :nothing="data && !data.lines.length ? t('course.none') : undefined" />
    <section v-if="data?.warned.length" class="card">
      <h2 class="h3">{{ t("course.warned") }}</h2>
      <ul>
        <li v-for="w in data.warned.slice(-12).reverse()" :key="w.at + w.says" :class="w.colour">
          <b>{{ t(`course.${w.colour}`) }}</b> {{ dayAndTime(w.at, session.zone) }} · {{ w.says }}
        </li>
      </ul>
    </section>
    <section v-if="data?.lines.length" class="card" :aria-busy="isFetching">
      <TimePlot :rows="rows" :events="events" :span="span" :label="rows.map((r) => r.title).join('; ')" :file="`${machine}-values`" />
    </section>
  </div>
</template>

<style scoped>
ul { margin: 0; padding-left: 22px; } li.red b { color: var(--hold); } li.amber b { color: var(--mend); }
</style>
