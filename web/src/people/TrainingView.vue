<script setup lang="ts">
import { ElDialog, ElInput, ElOption, ElSelect } from "element-plus";
import { computed, reactive, ref } from "vue";
import { useI18n } from "vue-i18n";

import { call, type Schemas } from "../api/client";
import { useSession } from "../app/session";
import { day } from "../app/times";
import { useSays, useTraining } from "../data/queries";
import { uuid4 } from "../parts/device";
import PageState from "../parts/PageState.vue";

/** Who was shown which model and this ground, by whom and when; what was written down wrongly is struck out, not gone. */
type Training = Schemas["TrainingOut"];
const { t } = useI18n();
const session = useSession();
const { data, error, refetch } = useTraining();
const unread = useSays(error);
const unsaved = ref("");
const says = computed(() => unsaved.value || unread.value);
const may = computed(() => session.may("teach"));
const adding = ref(false);
const form = reactive({ id: "", person: "", taught: "model" as Training["taught"], model: "", note: "" });
const of = (person: string) => (data.value?.trainings ?? []).filter((x) => x.person === person).reverse();
function begin(person: string) {
  unsaved.value = "";
  Object.assign(form, { id: uuid4(), person, taught: "model", model: "", note: "" });
  adding.value = true;
}
async function save() {
  const reply = await call("post", "/api/training", { body: { ...form, at: new Date(Date.now() - 1000).toISOString() } });
  if (!reply.ok) return void (unsaved.value = reply.problem?.detail ?? t("connection.awayLong"));
  adding.value = false;
  await refetch();
}
async function withdraw(x: Training) {
  const reply = await call("post", "/api/training/{training}/withdrawn", { params: { path: { training: x.id } }, body: { id: uuid4() } });
  unsaved.value = reply.ok ? "" : (reply.problem?.detail ?? t("connection.awayLong"));
  await refetch();
}
</script>

<template>
  <div class="page stack">
    <h1>{{ t("training.title") }}</h1>
    <p class="quiet">{{ t("training.says") }}</p>
    <PageState v-if="!adding" :says="says" :waits="!data" />
    <section v-for="p in data?.people" :key="p.id" class="card stack" :data-test="`trained-${p.id}`">
      <div class="row spread wrap">
        <h2 class="h3">
          {{ p.name }} <small>{{ t(`role.${p.role}`) }}</small>
        </h2>
        <button v-if="may" type="button" class="button" :data-test="`teach-${p.id}`" @click="begin(p.id)">{{ t("training.add") }}</button>
      </div>
      <ul v-if="of(p.id).length">
        <li v-for="x in of(p.id)" :key="x.id" class="row spread wrap">
          <span :class="{ gone: x.withdrawn }"
            ><b>{{ x.taught === "ground" ? t("training.ground") : (data?.models[x.model] ?? x.model) }}</b>
            {{ t("training.by", { by: x.by, at: day(x.at, session.zone) }) }} {{ x.note }}</span
          >
          <span v-if="x.withdrawn" class="quiet">{{ t("training.withdrawn") }}</span><button
            v-else-if="may"
            type="button"
            class="button plain"
            @click="withdraw(x)">
            {{ t("training.withdraw") }}
          </button>
        </li>
      </ul>
      <p v-else class="quiet">{{ t("training.none") }}</p>
    </section>
    <ElDialog v-model="adding" :title="t('training.add')" width="min(560px, 96vw)">
      <div class="stack">
        <div class="row wrap" role="group" :aria-label="t('training.what')">
          <button
            v-for="k in ['model', 'ground'] as const"
            :key="k"
            type="button"
            class="button"
            :class="{ chosen: form.taught === k }"
            :aria-pressed="form.taught === k"
            :data-test="`taught-${k}`"
            @click="form.taught = k">
            {{ t(`training.${k}`) }}
          </button>
        </div>
        <label v-if="form.taught === 'model'"
          >{{ t("training.model")
          }}<ElSelect v-model="form.model" filterable :aria-label="t('training.model')" data-test="taught-which"
            ><ElOption v-for="(name, id) in data?.models" :key="id" :value="id" :label="name" /></ElSelect
        ></label>
        <label>{{ t("training.note") }}<ElInput v-model="form.note" maxlength="400" data-test="taught-note" /></label>
        <p role="alert">{{ unsaved }}</p>
      </div>
      <template #footer
        ><button
          type="button"
          class="button primary"
          :disabled="form.taught === 'model' && !form.model"
          data-test="taught-save"
          @click="save">
          {{ t("training.save") }}
        </button></template
      >
    </ElDialog>
  </div>
</template>

<style scoped>
small { color: var(--soft); font-weight: 420; font-size: 16px; } ul { list-style: none; padding: 0; margin: 0; } li { border-top: 1px solid var(--line); padding: 4px 0; min-height: 56px; } .gone { text-decoration: line-through; color: var(--soft); } p { margin: 0; } label { display: grid; gap: 4px; }
</style>
