<script setup lang="ts">
import { useI18n } from "vue-i18n";

import { useMachineFile, useSays, useSeries } from "../data/queries";
import PageState from "../parts/PageState.vue";
import SeriesPlot from "./SeriesPlot.vue";
import UnitsButton from "./UnitsButton.vue";
import { outcome } from "./units";

/** What was read on a machine over time: levels, pressures, restriction, wear. */
const props = defineProps<{ machine: string }>();
const { t } = useI18n();
const { data, error } = useSeries(props.machine);
const { data: file } = useMachineFile(props.machine);
const says = useSays(error);
</script>

<template>
  <div class="page stack">
    <div class="row spread wrap">
      <h1>{{ t("reading.trends", { name: file?.machine.name ?? machine }) }}</h1>
      <div class="row wrap">
        <UnitsButton />
        <RouterLink class="button plain" :to="{ name: 'machine', params: { machine } }">{{ t("run.file") }}</RouterLink>
      </div>
    </div>
    <PageState :says="says" :waits="!data" :nothing="data?.length === 0 ? t('reading.noTrends') : undefined" />
    <div class="plots">
      <section v-for="s in data" :key="s.checkpoint + s.key" class="card stack" :data-test="`series-${s.checkpoint}-${s.key}`">
        <h2 class="h3">{{ s.place }}: {{ s.title }}</h2>
        <p>
          <b class="big">{{ outcome(s.points.at(-1)!.value, s.unit, s.us, s.control) }}</b>
        </p>
        <SeriesPlot :series="s" :file="`${machine}-${s.checkpoint}-${s.key}`" />
      </section>
    </div>
  </div>
</template>

<style scoped>
.plots { display: grid; grid-template-columns: repeat(auto-fill, minmax(min(420px, 100%), 1fr)); gap: 18px; } .big { font-size: 26px; }
</style>
