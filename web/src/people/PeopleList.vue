<script setup lang="ts">
import { computed, ref } from "vue";
import { useI18n } from "vue-i18n";

import { call, type Schemas } from "../api/client";
import { useTold } from "../data/queries";
import FileButton from "../parts/FileButton.vue";
import { uuid4 } from "../parts/device";

/** Many people from one list: looked at first, line by line; added when no line is refused, with a PIN for each. */
const { t } = useI18n();
const told = useTold();
const text = ref("");
const id = ref("");
const news = ref<Schemas["PeopleListOut"] | null>(null);
const says = ref("");
const busy = ref(false);
const count = (...does: string[]) => news.value?.lines.filter((x) => does.includes(x.does)).length ?? 0;
const may = computed(() => news.value !== null && !news.value.kept && count("refused") === 0 && count("new", "waits") > 0);

async function ask(keep: boolean) {
  says.value = "";
  busy.value = true;
  const reply = await call("post", "/api/people-list", { body: { id: id.value, text: text.value, keep } });
  busy.value = false;
  if (reply.ok) {
    news.value = reply.data;
    if (reply.data.kept) await told.people();
  } else says.value = reply.problem?.detail ?? t("connection.awayLong");
}
async function look(file: Blob) {
  news.value = null;
  text.value = (await file.text()).slice(0, 100_000);
  id.value = uuid4();
  await ask(false);
}
</script>

<template>
  <section class="card stack" data-test="people-list">
    <div class="row spread wrap">
      <div class="grow">
        <h2 class="h3">{{ t("peopleList.title") }}</h2>
        <p class="quiet">{{ t("peopleList.how") }}</p>
      </div>
      <div class="row">
        <a class="button" href="/api/people-list.csv" data-test="people-list-out">{{ t("peopleList.out") }}</a>
        <FileButton test="people-list-file" accept=".csv,text/csv" :photo="false" @file="look">{{ t("machineList.choose") }}</FileButton>
      </div>
    </div>
    <p v-if="says" class="bad" role="alert">{{ says }}</p>
    <template v-if="news">
      <p role="status" data-test="people-list-says">
        <b v-if="news.kept">{{ t("peopleList.kept") }}</b>
        <b v-else>{{ t("peopleList.would", { n: count("new", "waits"), same: count("same"), refused: count("refused") }) }}</b>
      </p>
      <div class="wide">
        <table>
          <thead>
            <tr>
              <th>{{ t("machineList.line") }}</th>
              <th>{{ t("people.name") }}</th>
              <th>{{ t("people.role") }}</th>
              <th v-if="news.kept">{{ t("peopleList.pin") }}</th>
              <th>{{ t("machineList.comes") }}</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="x in news.lines" :key="x.line" :class="x.does">
              <td>{{ x.line }}</td>
              <td>{{ x.name }}</td>
              <td>{{ x.does === "refused" ? x.role : t(`role.${x.role}`) }}</td>
              <td v-if="news.kept">
                <b v-if="x.pin">{{ x.pin }}</b>
              </td>
              <td>
                {{ t(`peopleList.does.${x.does}`) }}<template v-if="x.says"> · {{ x.says }}</template>
              </td>
            </tr>
          </tbody>
        </table>
      </div>
      <button v-if="may" type="button" class="button primary" :disabled="busy" data-test="people-list-keep" @click="ask(true)">
        {{ busy ? t("peopleList.busy") : t("peopleList.keep", count("new", "waits")) }}
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
