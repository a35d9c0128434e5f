<script setup lang="ts">
import { ref, watch } from "vue";
import { useI18n } from "vue-i18n";
import { useRoute } from "vue-router";

import { call, refused, type Schemas } from "../api/client";
import { uuid7 } from "../parts/device";

/** Whoever is refused something asks those who may, with one tap: they see it on Today. */
const { t } = useI18n();
const route = useRoute();
const says = ref("");
const asked = ref(false);
let id = uuid7();
watch(refused, () => {
  says.value = "";
  asked.value = false;
  id = uuid7();
});
watch(
  () => route.path,
  () => (refused.value = null),
);

async function ask() {
  const note = (document.querySelector("main h1")?.textContent ?? "").trim().slice(0, 80);
  const roles = (refused.value?.roles ?? []) as Schemas["Role"][];
  const reply = await call("post", "/api/asks", { body: { id, path: route.path, roles, note } });
  asked.value = reply.ok;
  says.value = reply.ok ? t("ask.asked") : (reply.problem?.detail ?? t("connection.awayLong"));
}
</script>

<template>
  <div v-if="refused" class="ask" role="region" :aria-label="t('ask.title')" data-test="ask-bar">
    <p role="status">{{ says || refused.detail }}</p>
    <button v-if="!asked" type="button" class="button primary" data-test="ask-them" @click="ask">{{ t("ask.them") }}</button>
    <button type="button" class="button" @click="refused = null">{{ t(asked ? "ask.gone" : "ask.close") }}</button>
  </div>
</template>

<style scoped>
.ask { position: fixed; inset: auto 0 0; z-index: 59; padding: 12px 20px; display: flex; flex-wrap: wrap; align-items: center; gap: 14px; background: var(--card); border-top: 3px solid var(--ink); }
p { margin: 0; flex: 1; min-width: 220px; }
</style>
