<script setup lang="ts">
import { computed, ref } from "vue";
import { useI18n } from "vue-i18n";

import { call, type Problem, type Schemas } from "../api/client";
import { useSession } from "../app/session";
import { useModelsPage, useSays, useTold } from "../data/queries";
import { dayAndTime } from "../app/times";
import FileButton from "../parts/FileButton.vue";
import MachineList from "./MachineList.vue";
import { uuid7 } from "../parts/device";
import PageState from "../parts/PageState.vue";

/** Every model of the site; taken out as files, taken in again. */
const { t } = useI18n();
const session = useSession();
const { data, error } = useModelsPage();
const ownKey = computed(() => data.value?.key ?? "");
const models = computed(() => data.value?.models ?? []);
const unread = useSays(error);
const tell = useTold();
const problem = ref<Problem | null>(null);
const took = ref("");
const unsent = ref("");
const says = computed(() => unsent.value || unread.value);
const over = ref(false);
const mayEdit = computed(() => session.may("edit-machines"));

/** A file that another site signed: taken in once two people have compared the key. */
const foreign = ref<{ file: Blob; by: Schemas["SignedByOut"] } | null>(null);

async function take(file: Blob | undefined, signer = "") {
  problem.value = foreign.value = null;
  took.value = unsent.value = "";
  if (!file) return;
  const body = {
    id: uuid7(),
    name: file instanceof File ? file.name.slice(-80) : "",
    text: (await file.text()).slice(0, 700_000),
    keep: true,
    signer,
  };
  const reply = await call("post", "/api/models", { body });
  if (reply.ok) {
    took.value = t("models.took", { name: `${reply.data.maker} ${reply.data.name}` });
    await tell.models();
  } else if (reply.problem?.field === "signer") {
    const looked = await call("post", "/api/models", { body: { ...body, keep: false } });
    if (looked.ok && looked.data.signed_by) foreign.value = { file, by: looked.data.signed_by };
    else problem.value = looked.ok ? reply.problem : (looked.problem ?? reply.problem);
  } else if (reply.problem) problem.value = reply.problem;
  else unsent.value = t("connection.awayLong");
}
</script>

<template>
  <div class="page stack">
    <h1>{{ t("models.title") }}</h1>
    <PageState :says="says" :waits="!data" :lines="5" />
    <section
      v-if="mayEdit"
      class="card row spread wrap drop"
      :class="{ over }"
      @dragover.prevent="over = true"
      @dragleave="over = false"
      @drop.prevent="
        over = false;
        take($event.dataTransfer?.files[0]);
      ">
      <div class="grow">
        <h2 class="h3">{{ t("models.import") }}</h2>
        <p class="quiet">{{ t("models.importText") }}</p>
        <p class="quiet">
          {{ t("models.ownKey") }} <span class="key small" data-test="own-key">{{ ownKey }}</span>
        </p>
      </div>
      <RouterLink class="button" to="/models/draft" data-test="draft">{{ t("draft.title") }}</RouterLink>
      <FileButton
        class="primary"
        test="model-file"
        accept=".yaml,.yml,.json,.jws,application/json,application/yaml,application/jose"
        :photo="false"
        @file="take"
        >{{ t("models.choose") }}</FileButton
      >
    </section>
    <div v-if="problem" class="card refused" role="alert" data-test="refused">
      <h2 class="h3">
        {{ t("models.refused")
        }}<template v-if="problem.line"> · {{ t("models.where", { line: problem.line, field: problem.field }) }}</template>
      </h2>
      <p>{{ problem.detail }}</p>
    </div>
    <div v-if="foreign" class="card foreign stack" role="alert" data-test="foreign">
      <h2 class="h3">{{ t("models.signedBy", { site: foreign.by.site, at: dayAndTime(foreign.by.at, session.zone) }) }}</h2>
      <p class="key" data-test="foreign-key">{{ foreign.by.key }}</p>
      <p>{{ t("models.compare") }}</p>
      <div class="row">
        <button type="button" class="button primary" data-test="foreign-take" @click="take(foreign.file, foreign.by.key)">
          {{ t("models.same") }}</button><button type="button" class="button" @click="foreign = null">{{ t("models.other") }}</button>
      </div>
    </div>
    <p v-if="took" class="card took" role="status" data-test="took">{{ took }}</p>
    <MachineList v-if="mayEdit" />
    <ul class="list">
      <li v-for="m in models" :key="m.id" class="card" :data-test="`model-${m.id}`">
        <div class="grow">
          <h2 class="h3">{{ m.maker }} {{ m.name }}</h2>
          <p class="quiet">
            {{ m.family }} · {{ t("models.points", { n: m.checkpoints }) }} ·
            {{ m.edition ? t("models.edition", { n: m.edition, by: m.by }) : t("models.shipped") }}
          </p>
          <p>{{ m.machines.join(", ") || t("models.none") }}</p>
        </div>
        <div class="row">
          <a class="button" :href="`/api/models/${m.id}/file.yaml`" :data-test="`yaml-${m.id}`">{{ t("models.yaml") }}</a><a
            class="button"
            :href="`/api/models/${m.id}/file.json`"
            :data-test="`json-${m.id}`"
            >{{ t("models.json") }}</a
          ><a class="button" :href="`/api/models/${m.id}/file.jws`" :data-test="`jws-${m.id}`">{{ t("models.jws") }}</a>
        </div>
      </li>
    </ul>
  </div>
</template>

<style scoped>
.grow { flex: 1; min-width: 240px; }
.drop.over { outline: 3px dashed var(--here); }
.refused { border: 3px solid var(--hold); }
.foreign { border: 3px solid var(--limit); }
.key { font-size: 1.5rem; font-weight: 700; letter-spacing: 0.06em; }
.key.small { font-size: 1rem; white-space: nowrap; }
.took { border: 2px solid var(--sound); }
.list { list-style: none; padding: 0; margin: 0; display: grid; grid-template-columns: repeat(auto-fill, minmax(480px, 1fr)); gap: 12px; }
.list li { display: flex; gap: 12px; align-items: center; flex-wrap: wrap; }
.bad { color: var(--hold); }
@media (max-width: 800px) { .list { grid-template-columns: 1fr; } }
</style>
