<script setup lang="ts">
import { ref, watch } from "vue";
import { useI18n } from "vue-i18n";

import { call, inLanguage, type Schemas } from "../api/client";
import { useModels, useTold } from "../data/queries";
import MachinePlan from "../parts/MachinePlan.vue";
import { viewBox } from "../parts/drawing";
import { uuid7 } from "../parts/device";

/** A model file written here: drawn while one types, what is missing said in sentences, taken in when it is whole. */
const { t } = useI18n();
const tell = useTold();
const { data: models } = useModels();
const PAUSE_MS = 500;
const text = ref("");
const from = ref("");
const draft = ref<Schemas["ModelDraftOut"] | null>(null);
const says = ref("");
const took = ref("");
let turn = 0;
let timer = 0;

async function look() {
  const mine = ++turn;
  const reply = await call("post", "/api/model-draft", { body: { text: text.value.slice(0, 500_000) } });
  if (mine !== turn) return;
  says.value = reply.ok ? "" : (reply.problem?.detail ?? t("connection.awayLong"));
  if (reply.ok) draft.value = reply.data;
}
watch(text, () => {
  took.value = "";
  window.clearTimeout(timer);
  timer = window.setTimeout(look, PAUSE_MS);
});
watch(from, async (model) => {
  if (!model) return;
  const file = await fetch(inLanguage(`/api/models/${model}/file.yaml`)).catch(() => null);
  if (file?.ok) text.value = await file.text();
  else says.value = t("connection.awayLong");
});
async function take() {
  const reply = await call("post", "/api/models", {
    body: { id: uuid7(), name: "written-here.yaml", text: text.value, keep: true, signer: "" },
  });
  if (reply.ok) {
    took.value = t("models.took", { name: `${reply.data.maker} ${reply.data.name}` });
    await tell.models();
  } else says.value = reply.problem?.detail ?? t("connection.awayLong");
}
</script>

<template>
  <div class="page stack">
    <h1>{{ t("draft.title") }}</h1>
    <p class="quiet">{{ t("draft.how") }}</p>
    <div class="two">
      <div class="stack">
        <label class="stack"
          ><b>{{ t("draft.from") }}</b>
          <select v-model="from" data-test="draft-from">
            <option value="">{{ t("draft.none") }}</option>
            <option v-for="m in models ?? []" :key="m.id" :value="m.id">{{ m.maker }} {{ m.name }} · {{ m.family }}</option>
          </select></label
        >
        <label class="stack"
          ><b>{{ t("draft.file") }}</b
          ><textarea v-model="text" spellcheck="false" autocapitalize="off" data-test="draft-text" />
        </label>
      </div>
      <div class="stack">
        <p v-if="says" class="bad" role="alert">{{ says }}</p>
        <div v-if="draft" class="card stack" aria-live="polite" data-test="draft-says">
          <p v-if="draft.good" class="good">{{ t("draft.good") }}</p>
          <p v-else>{{ draft.says }}</p>
          <template v-if="draft.missing.length">
            <p>{{ t("draft.missing", { name: draft.borrowed }) }}</p>
            <ul>
              <li v-for="m in draft.missing" :key="m.figure">
                {{ t("draft.lacks", { figure: m.figure, measures: m.measures, low: m.low, high: m.high }) }}
              </li>
            </ul>
          </template>
          <p v-if="took" role="status" class="good" data-test="draft-took">{{ took }}</p>
          <button v-else-if="draft.good" type="button" class="button primary" data-test="draft-take" @click="take">
            {{ t("draft.take") }}
          </button>
        </div>
        <div v-if="draft?.above && draft.left && draft.right" class="card" data-test="draft-drawing">
          <svg :viewBox="viewBox(draft.above)" role="img" :aria-label="t('draft.above')"><MachinePlan :drawing="draft.above" /></svg>
          <svg :viewBox="viewBox(draft.left)" role="img" :aria-label="t('walk.sideMap.left', { name: '' })">
            <MachinePlan :drawing="draft.left" />
          </svg>
          <svg :viewBox="viewBox(draft.right)" role="img" :aria-label="t('walk.sideMap.right', { name: '' })">
            <MachinePlan :drawing="draft.right" />
          </svg>
        </div>
      </div>
    </div>
  </div>
</template>

<style scoped>
.two { display: grid; grid-template-columns: minmax(0, 1fr) minmax(0, 1fr); gap: 16px; align-items: start; }
textarea { width: 100%; min-height: 60vh; font-family: ui-monospace, monospace; font-size: 16px; line-height: 1.4; padding: 12px; white-space: pre; overflow: auto; border: 2px solid var(--ink); border-radius: 12px; background: var(--card); color: var(--ink); }
select { min-height: 56px; font-size: 18px; padding: 0 12px; border: 2px solid var(--ink); border-radius: 12px; background: var(--card); color: var(--ink); }
svg { width: 100%; max-height: 220px; display: block; } ul { margin: 0; padding-left: 20px; } .bad { color: var(--hold); } .good { color: var(--sound); font-weight: 640; }
@media (max-width: 800px) { .two { grid-template-columns: 1fr; } textarea { min-height: 40vh; } }
</style>
