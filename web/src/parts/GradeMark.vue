<script setup lang="ts">
import { useI18n } from "vue-i18n";

import MarkShape from "./MarkShape.vue";
import type { Mark } from "./marks";

withDefaults(defineProps<{ mark: Mark; size?: number; silent?: boolean }>(), { size: 34, silent: false });
const { t } = useI18n();
</script>

<template>
  <svg
    :width="size"
    :height="size"
    viewBox="-18 -18 36 36"
    :role="silent ? 'presentation' : 'img'"
    :aria-hidden="silent || undefined"
    :aria-label="silent ? undefined : t(`mark.${mark}`)"
    class="mark">
    <MarkShape :mark="mark" />
  </svg>
</template>

<style scoped>
.mark { flex: none; display: block; }
</style>
