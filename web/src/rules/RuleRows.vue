<script setup lang="ts">
import { useI18n } from "vue-i18n";

import type { Schemas } from "../api/client";
import ChoiceDrawing from "../parts/ChoiceDrawing.vue";
import GradeMark from "../parts/GradeMark.vue";

/** Rules, each with what it speaks of as it looks, its grade, its date and its source. */
defineProps<{ rules: Schemas["RowOut"][]; duty?: string; chosen?: string; pick?: boolean }>();
const emit = defineEmits<{ pick: [rule: Schemas["RowOut"]] }>();
const { t } = useI18n();
</script>

<template>
  <ul class="rules">
    <li v-for="r in rules" :key="r.id" :class="{ chosen: r.id === chosen }">
      <component
        :is="pick ? 'button' : 'div'"
        class="rule"
        :type="pick ? 'button' : undefined"
        :aria-pressed="pick ? r.id === chosen : undefined"
        :data-test="`rule-${r.id}`"
        @click="pick && emit('pick', r)">
        <span class="drawings"
          ><ChoiceDrawing v-for="k in r.keys" :key="k" :attribute="k.split('.')[0]!" :choice="k.split('.')[1]!" :duty="duty"
        /></span>
        <span class="text"
          ><b v-if="r.when">{{ r.when }}</b
          ><span v-if="r.says">{{ r.says }}</span
          ><span v-if="r.limit" class="limit">{{ r.limit }}</span
          ><small>{{ r.source }}</small></span
        >
        <span class="grade">
          <template v-if="r.grade"
            ><GradeMark :mark="r.grade" :size="34" /><span>{{ t(`mark.${r.grade}`) }}</span
            ><small v-if="r.within_hours">{{ t("rules.within", { n: r.within_hours }) }}</small></template
          >
          <b v-else>{{ t("stage.raise") }}</b>
        </span>
      </component>
    </li>
  </ul>
</template>

<style scoped>
.rules { list-style: none; margin: 0; padding: 0; display: grid; }
li { border-top: 1px solid var(--line); }
.rule { width: 100%; min-height: 64px; display: flex; gap: 14px; align-items: center; padding: 8px 6px; text-align: left; background: none; border: 0; font: inherit; color: inherit; }
button.rule { cursor: pointer; }
li.chosen { outline: 3px solid var(--here); outline-offset: -3px; border-radius: 8px; }
.drawings { display: flex; flex: 0 0 174px; gap: 6px; flex-wrap: wrap; }
.text { flex: 1; min-width: 0; display: grid; gap: 2px; }
.limit { font-weight: 520; }
small { color: var(--soft); font-size: 15px; }
.grade { flex: 0 0 128px; display: grid; grid-template-columns: 40px 1fr; gap: 0 8px; align-items: center; }
.grade small { grid-column: 2; }
@media (max-width: 800px) {
  .rule { flex-wrap: wrap; } .drawings { flex: 0 0 auto; } .grade { flex: 1 0 auto; } .text { flex: 1 0 100%; order: 3; }
}
</style>
