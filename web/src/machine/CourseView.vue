<script setup lang="ts">
import { computed, ref } from "vue";
import { useI18n } from "vue-i18n";

import { figure } from "../app/language";
import { useSession } from "../app/session";
import { dayAndTime } from "../app/times";
import type { Schemas } from "../api/client";
import { useCourse, useSays } from "../data/queries";

/** How a machine's values went: each on its own scale with its red and amber, and when the machine warned. */
const props = defineProps<{ machine: string }>();
const { t } = useI18n();
const session = useSession();
const SPANS = [1, 10, 24, 168] as const;
const hours = ref<number>(10);
const { data, error, isFetching } = useCourse(props.machine, hours);
const says = useSays(error);
type Line = Schemas["CourseLineOut"];
const W = 600,
  H = 96;
const start = computed(() => Date.parse(data.value?.since ?? "")),
  end = computed(() => Date.parse(data.value?.until ?? ""));
const x = (at: string) => ((Date.parse(at) - start.value) / (end.value - start.value)) * W;
const y = (l: Line, v: number) => H - ((Math.min(l.high, Math.max(l.low, v)) - l.low) / (l.high - l.low)) * H;
/** Stretches side by side as one shape from lowest to highest; where nothing was told there is a gap. */
function shapes(l: Line): string[] {
  const gap = ((end.value - start.value) / 240) * 3;
  const runs: Line["stretches"][] = [];
  for (const s of l.stretches) {
    const last = runs.at(-1)?.at(-1);
    if (last && Date.parse(s.at) - Date.parse(last.at) <= gap) runs.at(-1)!.push(s);
    else runs.push([s]);
  }
  return runs.map((r) => {
    const up = r.map((s) => `${x(s.at).toFixed(1)} ${(y(l, s.high) - 1).toFixed(1)}`),
      down = [...r].reverse().map((s) => `${x(s.at).toFixed(1)} ${(y(l, s.low) + 1).toFixed(1)}`);
    return `M${[...up, ...down].join("L")}Z`;
  });
}
const ends = (l: Line) => [Math.min(...l.stretches.map((s) => s.low)), Math.max(...l.stretches.map((s) => s.high))] as const;
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
    <p v-if="says" role="alert">{{ says }}</p>
    <p v-else-if="data && !data.lines.length" class="quiet" data-test="course-none">{{ t("course.none") }}</p>
    <section v-if="data?.warned.length" class="card">
      <h2 class="h3">{{ t("course.warned") }}</h2>
      <ul>
        <li v-for="w in data.warned.slice(-12).reverse()" :key="w.at + w.says" :class="w.colour">
          <b>{{ t(`course.${w.colour}`) }}</b> {{ dayAndTime(w.at, session.zone) }} · {{ w.says }}
        </li>
      </ul>
    </section>
    <figure v-for="l in data?.lines ?? []" :key="l.key" class="card" :data-test="`course-${l.key}`" :aria-busy="isFetching">
      <figcaption>
        <b>{{ l.name }}</b> {{ t("course.between", { low: figure(ends(l)[0], 0), high: figure(ends(l)[1], 0), unit: l.unit }) }}
      </figcaption>
      <svg
        :viewBox="`0 0 ${W} ${H}`"
        preserveAspectRatio="none"
        role="img"
        :aria-label="`${l.name}: ${t('course.between', { low: figure(ends(l)[0], 0), high: figure(ends(l)[1], 0), unit: l.unit })}`">
        <rect
          v-for="b in l.bands"
          :key="b.low"
          x="0"
          :width="W"
          :y="y(l, b.high)"
          :height="Math.max(0, y(l, b.low) - y(l, b.high))"
          :class="b.colour" />
        <path v-for="w in data?.warned ?? []" :key="w.at" :d="`M${x(w.at)} 0V${H}`" class="mark" :class="w.colour" />
        <path v-for="d in shapes(l)" :key="d" :d="d" class="line" />
      </svg>
      <div class="row spread quiet">
        <span>{{ data ? dayAndTime(data.since, session.zone) : "" }}</span><span>{{
          data ? dayAndTime(data.until, session.zone) : ""
        }}</span>
      </div>
    </figure>
  </div>
</template>

<style scoped>
figure { margin: 0; padding: 12px 16px; } svg { width: 100%; height: 96px; display: block; border: 1px solid var(--line); margin: 6px 0 2px; } .row.quiet { font-size: 14px; }
rect.red { fill: var(--hold); fill-opacity: 0.16; } rect.amber { fill: var(--mend); fill-opacity: 0.16; } .line { fill: var(--deep); stroke: var(--deep); stroke-width: 1.6; vector-effect: non-scaling-stroke; } .mark { stroke-width: 1.4; stroke-dasharray: 4 3; vector-effect: non-scaling-stroke; } .mark.red { stroke: var(--hold); } .mark.amber { stroke: var(--mend); }
ul { margin: 0; padding-left: 22px; } li.red b { color: var(--hold); } li.amber b { color: var(--mend); }
</style>
