<script setup lang="ts">
import { useI18n } from "vue-i18n";

import { units } from "./units";

/** Metric or US, for this person on this device. */
const { t } = useI18n();
</script>

<template>
  <div class="row" role="group" :aria-label="t('reading.units')">
    <button
      v-for="u in ['metric', 'us'] as const"
      :key="u"
      type="button"
      class="button"
      :class="{ chosen: units === u }"
      :aria-pressed="units === u"
      :data-test="`units-${u}`"
      @click="units = u">
      {{ t(`reading.unit.${u}`) }}
    </button>
  </div>
</template>
