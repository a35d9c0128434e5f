<script setup lang="ts">
import { computed } from "vue";
import { useI18n } from "vue-i18n";

import type { Schemas } from "../api/client";

const props = defineProps<{ judgement: Schemas["JudgementOut"] }>();
const { t } = useI18n();
const sign = computed(
  () =>
    ({ "in-band": "M5 12l5 5L19 7", act: "M12 5v8M12 17.5v.5", stop: "M6 6l12 12M18 6L6 18", refused: "M6 12h12" })[props.judgement.band],
);
</script>

<template>
  <div class="judged" :class="judgement.band" data-test="judgement">
    <p class="row action">
      <svg width="30" height="30" viewBox="0 0 24 24" role="img" :aria-label="t(`band.${judgement.band}`)">
        <circle cx="12" cy="12" r="11" />
        <path :d="sign" />
      </svg>
      <b>{{ judgement.action }}</b>
    </p>
    <p class="quiet">{{ judgement.why }}</p>
  </div>
</template>

<style scoped>
.action { align-items: flex-start; gap: 10px; }
svg { flex: none; fill: none; stroke: currentColor; stroke-width: 2.4; stroke-linecap: round; }
.in-band .action { color: var(--sound); }
.act .action { color: var(--mend); }
.stop .action { color: var(--hold); }
.refused .action { color: var(--limit); }
</style>
