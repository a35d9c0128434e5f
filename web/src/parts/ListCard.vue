<script setup lang="ts" generic="Line extends { line: number; does: string }">
import { useI18n } from "vue-i18n";

import FileButton from "./FileButton.vue";

/** Many of something from one list (CSV): a file is chosen and looked at line by line, then it is taken in part by part, unless a line is refused. */
defineProps<{
  /** What it is called in tests and in the API's address, such as people-list. */
  name: string;
  title: string;
  how: string;
  out: string;
  /** What went wrong with the whole of it. */
  says: string;
  /** What would come of it, or came; empty: no list yet. */
  status: string;
  heads: string[];
  lines: Line[];
  cells: (line: Line) => string[];
  /** What the button says that takes it in; empty: it cannot be. */
  keep: string;
  busy: boolean;
  /** How far it is, while it is taken in. */
  done: { done: number; all: number } | null;
}>();
const emit = defineEmits<{ file: [file: Blob]; keep: []; stop: [] }>();
const { t } = useI18n();
</script>

<template>
  <section class="card stack" :data-test="name">
    <div class="row spread wrap">
      <div class="grow">
        <h2 class="h3">{{ title }}</h2>
        <p class="quiet">{{ how }}</p>
      </div>
      <div class="row">
        <a class="button" :href="`/api/${name}.csv`" :data-test="`${name}-out`">{{ out }}</a>
        <FileButton :test="`${name}-file`" accept=".csv,text/csv" :photo="false" @file="emit('file', $event)">{{
          t("machineList.choose")
        }}</FileButton>
      </div>
    </div>
    <p v-if="says" class="bad" role="alert" :data-test="`${name}-refused`">{{ says }}</p>
    <template v-if="status">
      <p role="status" :data-test="`${name}-says`">
        <b>{{ busy && done ? t("listIn.progress", done) : status }}</b>
      </p>
      <div v-if="busy && done" class="row">
        <progress class="grow" :value="done.done" :max="done.all" :aria-label="t('listIn.progress', done)"></progress>
        <button type="button" class="button" :data-test="`${name}-stop`" @click="emit('stop')">{{ t("listIn.stop") }}</button>
      </div>
      <button
        v-if="keep && !(busy && done)"
        type="button"
        class="button primary"
        :disabled="busy"
        :data-test="`${name}-keep`"
        @click="emit('keep')">
        {{ keep }}
      </button>
      <div class="wide">
        <table>
          <thead>
            <tr>
              <th>{{ t("machineList.line") }}</th>
              <th v-for="h in heads" :key="h">{{ h }}</th>
              <th>{{ t("machineList.comes") }}</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="x in lines" :key="x.line" :class="x.does">
              <td>{{ x.line }}</td>
              <td v-for="(c, n) in cells(x)" :key="n">{{ c }}</td>
            </tr>
          </tbody>
        </table>
      </div>
    </template>
  </section>
</template>

<style scoped>
.wide { overflow-x: auto; } progress { height: 20px; accent-color: var(--sound); } .grow { flex: 1; min-width: 240px; } .bad { color: var(--hold); }
table { width: 100%; border-collapse: collapse; } th, td { text-align: left; padding: 8px; border-bottom: 1px solid var(--line); vertical-align: top; white-space: nowrap; }
th:last-child, td:last-child { width: 100%; white-space: normal; overflow-wrap: anywhere; }
@media (max-width: 800px) { thead { display: none; } tr { display: flex; flex-wrap: wrap; border-bottom: 1px solid var(--line); } td { border: 0; } td:last-child { flex: 1 0 100%; padding-top: 0; } }
.refused td { color: var(--hold); font-weight: 640; } .same td { color: var(--quiet); }
</style>
