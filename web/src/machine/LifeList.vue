<script setup lang="ts">
import { computed } from "vue";
import { useI18n } from "vue-i18n";

import type { Schemas } from "../api/client";
import { useSession } from "../app/session";
import { clock, day } from "../app/times";
import GradeMark from "../parts/GradeMark.vue";
import type { Mark } from "../parts/marks";

/** Events of a machine's life, day by day; each leads to where it stands. */
type Event = Schemas["LifeEventOut"];
const props = defineProps<{ machine: string; events: Event[] }>();
const { t } = useI18n();
const session = useSession();
const days = computed(() => {
  const out: { day: string; events: Event[] }[] = [];
  for (const e of props.events) {
    const on = day(e.at, session.zone);
    if (out.at(-1)?.day !== on) out.push({ day: on, events: [] });
    out.at(-1)!.events.push(e);
  }
  return out;
});
/** A sign for each group, beside its words. */
const SIGN: Record<Event["group"], string> = {
  inspections: "M4 12L10 18L20 6",
  work: "M6 4L19 12L6 20Z",
  defects: "M12 4V14M12 19V20",
  happened: "M13 3L6 13H12L10 21L18 10H12Z",
  filled: "M12 4C8 10 6 12 6 15A6 6 0 0 0 18 15C18 12 16 10 12 4Z",
  file: "M7 4H14L18 8V20H7ZM10 12H15M10 16H15",
};
function placeOf(e: Event) {
  if (e.group === "inspections") return { name: "record", params: { inspection: e.stream } };
  if (e.group === "work" && !e.stream.includes(".")) return { name: "run", params: { machine: props.machine }, query: { run: e.stream } };
  if (e.group === "defects") return { name: "machine-defects", params: { machine: props.machine } };
  if (e.group === "happened") return { name: "incident", params: { machine: props.machine } };
  return null;
}
</script>

<template>
  <div class="life" data-test="life">
    <section v-for="d in days" :key="d.day + d.events[0]!.entry">
      <h2 class="h3">{{ d.day }}</h2>
      <ol>
        <li v-for="e in d.events" :key="e.entry" :class="{ back: e.taken_back }" :data-test="`event-${e.group}`">
          <GradeMark v-if="e.outcome" :mark="e.outcome as Mark" :size="32" silent />
          <svg v-else viewBox="0 0 24 24" width="32" height="32" role="img" :aria-label="t(`life.group.${e.group}`)">
            <path :d="SIGN[e.group]" />
          </svg>
          <div class="grow">
            <component :is="placeOf(e) ? 'RouterLink' : 'span'" v-bind="placeOf(e) ? { to: placeOf(e) } : {}" class="what"
              >{{ e.says }}<template v-if="e.outcome">: {{ t(`mark.${e.outcome}`) }}</template></component
            >
            <p v-if="e.words" class="words">{{ e.words }}</p>
            <p class="quiet">
              {{ clock(e.at, session.zone) }} · {{ e.by }}<b v-if="e.taken_back"> · {{ t("life.back") }}</b>
            </p>
          </div>
          <img v-if="e.photo" :src="`/api/photos/${e.photo}`" alt="" loading="lazy" />
        </li>
      </ol>
    </section>
  </div>
</template>

<style scoped>
.h3 { margin-top: 12px; } ol { list-style: none; margin: 0; padding: 0; border-left: 3px solid var(--line); }
li { display: flex; gap: 12px; padding: 8px 0 8px 14px; align-items: flex-start; break-inside: avoid; } .grow { flex: 1; min-width: 0; }
svg { flex: none; } path { fill: none; stroke: var(--ink); stroke-width: 2.2; stroke-linejoin: round; stroke-linecap: round; }
.what { color: var(--ink); font-weight: 600; min-height: 32px; display: inline-block; } .words { overflow-wrap: anywhere; }
.back .what, .back .words { text-decoration: line-through; } img { width: 96px; height: 72px; object-fit: cover; border-radius: 8px; }
</style>
