<script setup lang="ts">
import { computed, onMounted, ref } from "vue";
import { useI18n } from "vue-i18n";

import { api, ask, type Problem, type Schemas } from "../api/client";
import { useSession } from "../app/session";
import { uuid7 } from "../parts/device";

/** Every model of the site; taken out as files, taken in again. */
const { t } = useI18n();
const session = useSession();
const models = ref<Schemas["ModelOut"][]>([]);
const problem = ref<Problem | null>(null);
const took = ref("");
const says = ref("");
const over = ref(false);
const mayEdit = computed(() => ["mechanic", "supervisor", "administrator"].includes(session.person?.role ?? ""));

async function look() {
  const reply = await ask<Schemas["ModelsOut"]>(api.GET("/api/models"));
  if (reply.ok) models.value = reply.data.models;
  else says.value = reply.problem?.detail ?? t("connection.awayLong");
}
onMounted(look);

async function take(file: File | undefined) {
  problem.value = null;
  took.value = says.value = "";
  if (!file) return;
  const reply = await ask<Schemas["ModelOut"]>(api.POST("/api/models", { body: { id: uuid7(), name: file.name.slice(-80), text: (await file.text()).slice(0, 500_000), keep: true } }));
  if (reply.ok) {
    took.value = t("models.took", { name: `${reply.data.maker} ${reply.data.name}` });
    await look();
  } else if (reply.problem) problem.value = reply.problem;
  else says.value = t("connection.awayLong");
}
function chosen(e: Event) {
  const input = e.target as HTMLInputElement;
  void take(input.files?.[0]);
  input.value = "";
}
</script>

<template>
  <div class="page stack">
    <h1>{{ t("models.title") }}</h1>
    <p v-if="says" class="bad" role="alert">{{ says }}</p>
    <section v-if="mayEdit" class="card row spread wrap drop" :class="{ over }" @dragover.prevent="over = true" @dragleave="over = false" @drop.prevent="over = false; take($event.dataTransfer?.files[0])">
      <div class="grow"><h2 class="h3">{{ t("models.import") }}</h2><p class="quiet">{{ t("models.importText") }}</p></div>
      <label class="button primary" tabindex="0" @keydown.enter="($event.currentTarget as HTMLElement).click()"><input type="file" accept=".yaml,.yml,.json,application/json,application/yaml" class="sr-only" tabindex="-1" data-test="model-file" @change="chosen" />{{ t("models.choose") }}</label>
    </section>
    <div v-if="problem" class="card refused" role="alert" data-test="refused">
      <h2 class="h3">{{ t("models.refused") }}<template v-if="problem.line"> · {{ t("models.where", { line: problem.line, field: problem.field }) }}</template></h2>
      <p>{{ problem.detail }}</p>
    </div>
    <p v-if="took" class="card took" role="status" data-test="took">{{ took }}</p>
    <ul class="list">
      <li v-for="m in models" :key="m.id" class="card" :data-test="`model-${m.id}`">
        <div class="grow"><h2 class="h3">{{ m.maker }} {{ m.name }}</h2>
          <p class="quiet">{{ m.family }} · {{ t("models.points", { n: m.checkpoints }) }} · {{ m.edition ? t("models.edition", { n: m.edition, by: m.by }) : t("models.shipped") }}</p>
          <p>{{ m.machines.join(", ") || t("models.none") }}</p></div>
        <div class="row"><a class="button" :href="`/api/models/${m.id}/file.yaml`" :data-test="`yaml-${m.id}`">{{ t("models.yaml") }}</a><a class="button" :href="`/api/models/${m.id}/file.json`" :data-test="`json-${m.id}`">{{ t("models.json") }}</a></div>
      </li>
    </ul>
  </div>
</template>

<style scoped>
.grow { flex: 1; min-width: 240px; }
.drop.over { outline: 3px dashed var(--here); }
.refused { border: 3px solid var(--hold); }
.took { border: 2px solid var(--sound); }
.list { list-style: none; padding: 0; margin: 0; display: grid; grid-template-columns: repeat(auto-fill, minmax(480px, 1fr)); gap: 12px; }
.list li { display: flex; gap: 12px; align-items: center; flex-wrap: wrap; }
.bad { color: var(--hold); }
@media (max-width: 800px) { .list { grid-template-columns: 1fr; } }
</style>
