<script setup lang="ts">
import { ref } from "vue";
import { useI18n } from "vue-i18n";

import { call } from "../api/client";
import { goToCompany } from "../app/company";
import { useCompany } from "../data/queries";
import PinPad from "../parts/PinPad.vue";

/** One's own account at the company, to sign in by at the desk. */
const { t } = useI18n();
const { data, refetch } = useCompany();
const adding = ref(false);
const pin = ref("");
const says = ref("");
const busy = ref(false);

async function add() {
  if (busy.value) return;
  const typed = pin.value;
  pin.value = says.value = "";
  busy.value = true;
  const reply = await call("post", "/api/company/address", { body: { pin: typed } });
  if (reply.ok) return goToCompany(reply.data, true, "/sessions");
  says.value = reply.problem?.detail ?? t("connection.awayLong");
  busy.value = false;
}
async function end() {
  const reply = await call("delete", "/api/company");
  says.value = reply.ok ? "" : (reply.problem?.detail ?? t("connection.awayLong"));
  await refetch();
}
</script>

<template>
  <section v-if="data" class="card stack" data-test="company">
    <div class="row spread wrap">
      <div class="grow">
        <h2 class="h3">{{ t("company.title", { name: data.name }) }}</h2>
        <p class="quiet">{{ t("company.says") }}</p>
      </div>
      <button v-if="data.added" type="button" class="button" data-test="end-company" @click="end">{{ t("company.end") }}</button>
      <button v-else-if="!adding" type="button" class="button" data-test="add-company" @click="adding = true">
        {{ t("company.add") }}
      </button>
    </div>
    <p v-if="data.added">{{ t("company.on") }}</p>
    <div v-if="adding && !data.added" class="stack pad">
      <p>{{ busy ? t("company.wait", { name: data.name }) : t("company.pin", { name: data.name }) }}</p>
      <PinPad v-model="pin" :busy="busy" :enter="t('company.go')" @enter="add" />
    </div>
    <p v-if="says" role="alert" class="says">{{ says }}</p>
  </section>
</template>

<style scoped>
p { margin: 0; } .grow { flex: 1; min-width: 240px; } .pad { max-width: 420px; } .says { color: var(--hold); font-weight: 560; }
</style>
