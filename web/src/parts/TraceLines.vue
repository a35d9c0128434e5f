<script setup lang="ts">
import { useI18n } from "vue-i18n";

import type { Schemas } from "../api/client";
import GradeMark from "./GradeMark.vue";

defineProps<{ trace: Schemas["TraceOut"][] }>();
const { t } = useI18n();
</script>

<template>
  <ol class="trace">
    <li v-for="(line, i) in trace" :key="i">
      <GradeMark :mark="line.grade" :size="26" />
      <span
        >{{ line.says }}<small>{{ t(`stage.${line.stage}`) }} · {{ line.rule }} · {{ line.source }}</small></span
      >
    </li>
  </ol>
</template>

<style scoped>
.trace { list-style: none; padding: 0; margin: 8px 0; display: grid; gap: 8px; }
li { display: flex; gap: 10px; align-items: flex-start; font-size: 17px; }
small { display: block; font-size: 15px; color: var(--soft); }
</style>
