<script setup lang="ts">
import { defineAsyncComponent, ref } from "vue";
import { useI18n } from "vue-i18n";

import { useLanguage } from "./language";

// Only who asks for it loads the dialog.
const LanguageDialog = defineAsyncComponent(() => import("./LanguageDialog.vue"));
const emit = defineEmits<{ chosen: [] }>();
const { t } = useI18n();
const { current } = useLanguage();
const open = ref(false);
</script>

<template>
  <span>
    <button
      type="button"
      class="button plain language"
      :aria-label="`${current.toUpperCase()}, ${t('language.title')}`"
      data-test="language"
      @click="open = true">
      <svg viewBox="0 0 24 24" width="26" height="26" aria-hidden="true"><path d="M3 4h18v12h-9l-5 5v-5H3z" /></svg
      ><b>{{ current.toUpperCase() }}</b>
    </button>
    <LanguageDialog v-if="open" v-model="open" @chosen="emit('chosen')" />
  </span>
</template>

<style scoped>
.language { gap: 6px; min-width: 56px; }
svg { fill: none; stroke: currentColor; stroke-width: 2; stroke-linejoin: round; }
</style>
