<script setup lang="ts">
import { computed } from "vue";
import { useI18n } from "vue-i18n";

import { useReadings, useSays } from "../data/queries";
import PageState from "../parts/PageState.vue";
import SignDrawing from "../parts/SignDrawing.vue";
import ReadingForm from "./ReadingForm.vue";
import { SIGNS } from "./signs";
import UnitsButton from "./UnitsButton.vue";
import type { Values } from "./useReading";

/** Every reading by itself: the calculators. What is shown first is an example. */
const props = defineProps<{ reading?: string }>();
const { t } = useI18n();
const { data, error } = useReadings();
const says = useSays(error);
const topics = computed(() => {
  const out = new Map<string, { name: string; readings: NonNullable<typeof data.value> }>();
  for (const r of data.value ?? []) {
    if (!out.has(r.topic)) out.set(r.topic, { name: r.topic_name, readings: [] });
    out.get(r.topic)!.readings.push(r);
  }
  return [...out.values()];
});
const chosen = computed(() => data.value?.find((r) => r.key === props.reading) ?? null);
</script>

<template>
  <div class="page stack">
    <div class="row spread wrap">
      <h1>{{ t("reading.title") }}</h1>
      <UnitsButton />
    </div>
    <PageState :says="says" :waits="!data" />
    <p class="quiet">{{ t("reading.intro") }}</p>
    <div class="both" :class="{ tiles: !chosen }">
      <nav :aria-label="t('reading.title')" class="list" :class="{ away: chosen }">
        <section v-for="topic in topics" :key="topic.name">
          <h2 class="h3">{{ topic.name }}</h2>
          <RouterLink
            v-for="r in topic.readings"
            :key="r.key"
            :to="{ name: 'reading', params: { reading: r.key } }"
            class="one"
            :aria-current="r.key === reading ? 'page' : undefined"
            :data-test="`calc-${r.key}`"
            ><SignDrawing :sign="SIGNS[r.key] ?? []" />{{ r.title }}</RouterLink
          >
        </section>
      </nav>
      <article v-if="chosen" class="card stack">
        <RouterLink :to="{ name: 'readings' }" class="button narrow">{{ t("reading.all") }}</RouterLink>
        <h2>{{ chosen.title }}</h2>
        <ReadingForm :key="chosen.key" :listed="chosen" :first="chosen.example as Values" />
      </article>
    </div>
  </div>
</template>

<style scoped>
.both { display: grid; grid-template-columns: 290px minmax(0, 1fr); gap: 24px; align-items: start; } .list { display: grid; gap: 12px; }
.one { display: flex; align-items: center; min-height: 56px; padding: 4px 14px; border-radius: 10px; color: var(--ink); text-decoration: none; gap: 12px; line-height: 1.2; } .one[aria-current] { background: var(--deep); color: var(--on-deep); }
/* With none chosen they are all in sight at once. */
.tiles { grid-template-columns: minmax(0, 1fr); } .tiles .list { grid-template-columns: repeat(auto-fill, minmax(min(270px, 100%), 1fr)); gap: 16px; align-items: start; } .tiles section { border: 1px solid var(--line); border-radius: 14px; background: var(--card); padding: 10px 8px; } .tiles h2 { padding: 0 14px; }
.one[aria-current] :deep(.m), .one[aria-current] :deep(.w) { stroke: currentColor; }
.narrow { display: none; justify-self: start; }
@media (max-width: 900px) { .both { grid-template-columns: minmax(0, 1fr); } .list.away { display: none; } .narrow { display: inline-flex; } }
</style>
