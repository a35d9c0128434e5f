<script setup lang="ts">
import { computed, ref } from "vue";
import { useI18n } from "vue-i18n";

import { call, type Schemas } from "../api/client";
import { useTold } from "../data/queries";
import FileButton from "../parts/FileButton.vue";
import { uuid7 } from "../parts/device";

/** Many machines from one list: looked at first, line by line; taken in when no line is refused. */
const { t } = useI18n();
const tell = useTold();
const text = ref("");
const id = ref("");
const news = ref<Schemas["MachineListOut"] | null>(null);
const says = ref("");
const count = (does: string) => news.value?.lines.filter((x) => x.does === does).length ?? 0;
const may = computed(() => news.value !== null && !news.value.kept && count("refused") === 0 && count("new") > 0);

async function ask(keep: boolean) {
  says.value = "";
  const reply = await call("post", "/api/machine-list", { body: { id: id.value, text: text.value, keep } });
  if (reply.ok) {
    news.value = reply.data;
    if (reply.data.kept) await tell.models();
  } else says.value = reply.problem?.detail ?? t("connection.awayLong");
}
async function look(file: Blob) {
  news.value = null;
  text.value = (await file.text()).slice(0, 500_000);
  id.value = uuid7();
  await ask(false);
}
</script>

<template>
  <section class="card stack" data-test="machine-list">
    <div class="row spread wrap">
      <div class="grow">
        <h2 class="h3">{{ t("machineList.title") }}</h2>
        <p class="quiet">{{ t("machineList.how") }}</p>
      </div>
      <div class="row">
        <a class="button" href="/api/machine-list.csv" data-test="machine-list-out">{{ t("machineList.out") }}</a>
        <FileButton test="machine-list-file" accept=".csv,text/csv" :photo="false" @file="look">{{ t("machineList.choose") }}</FileButton>
      </div>
    </div>
    <p v-if="says" class="bad" role="alert" data-test="machine-list-refused">{{ says }}</p>
    <template v-if="news">
      <p role="status" data-test="machine-list-says">
        <b>{{
          news.kept
            ? t("machineList.kept", count("new"))
            : t("machineList.would", { n: count("new"), same: count("same"), refused: count("refused") })
        }}</b>
      </p>
      <div class="wide">
        <table>
          <thead>
            <tr>
              <th>{{ t("machineList.line") }}</th>
              <th>{{ t("machineList.number") }}</th>
              <th>{{ t("machineList.model") }}</th>
              <th>{{ t("machineList.comes") }}</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="x in news.lines" :key="x.line" :class="x.does">
              <td>{{ x.line }}</td>
              <td>{{ x.number }}</td>
              <td>{{ x.model }}</td>
              <td>
                {{ t(`machineList.does.${x.does}`) }}<template v-if="x.says"> · {{ x.field }}: {{ x.says }}</template>
              </td>
            </tr>
          </tbody>
        </table>
      </div>
      <button v-if="may" type="button" class="button primary" data-test="machine-list-keep" @click="ask(true)">
        {{ t("machineList.keep", count("new")) }}
      </button>
    </template>
  </section>
</template>

<style scoped>
.wide { overflow-x: auto; } .grow { flex: 1; min-width: 240px; } .bad { color: var(--hold); }
table { width: 100%; border-collapse: collapse; } th, td { text-align: left; padding: 8px; border-bottom: 1px solid var(--line); vertical-align: top; white-space: nowrap; }
th:last-child, td:last-child { width: 100%; white-space: normal; overflow-wrap: anywhere; }
@media (max-width: 800px) { thead { display: none; } tr { display: flex; flex-wrap: wrap; border-bottom: 1px solid var(--line); } td { border: 0; } td:last-child { flex: 1 0 100%; padding-top: 0; } }
.refused td { color: var(--hold); font-weight: 640; } .same td { color: var(--quiet); }
</style>
