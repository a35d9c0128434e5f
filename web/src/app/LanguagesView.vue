<script setup lang="ts">
import { onMounted, ref } from "vue";
import { useI18n } from "vue-i18n";

import { call, type Schemas } from "../api/client";
import PageState from "../parts/PageState.vue";
import { useLanguage } from "./language";

/** Every language, how much of it there is, and what it has no words for yet. */
const { t } = useI18n();
const { known, lookAround } = useLanguage();
const lacking = ref<Schemas["LackingOut"][]>([]);
const says = ref("");

onMounted(async () => {
  await lookAround();
  for (const one of known.value.filter((l) => l.code !== "en")) {
    const reply = await call("get", "/api/languages/{code}/lacking", { params: { path: { code: one.code } } });
    if (reply.ok) lacking.value = [...lacking.value, reply.data];
    else says.value = reply.problem?.detail ?? t("connection.awayLong");
  }
});
const nameOf = (code: string) => known.value.find((l) => l.code === code)?.name ?? code;
</script>

<template>
  <div class="page stack">
    <h1>{{ t("language.title") }}</h1>
    <p class="quiet">{{ t("language.how") }}</p>
    <PageState :says="says" :waits="!lacking.length" />
    <section v-for="one in lacking" :key="one.code" class="card stack" :data-test="`lacking-${one.code}`">
      <h2 :lang="one.code">{{ nameOf(one.code) }}</h2>
      <p>
        {{ t("language.have", { n: one.of_sentences - one.sentences.length, of: one.of_sentences }) }}
        {{ t("language.havePages", { n: one.of_pages - one.pages.length, of: one.of_pages }) }}
      </p>
      <p v-if="!one.sentences.length && !one.pages.length">
        <b>{{ t("language.complete") }}</b>
      </p>
      <details v-if="one.pages.length">
        <summary>{{ t("language.missingPages", one.pages.length) }}</summary>
        <ul>
          <li v-for="path in one.pages" :key="path">
            <code>{{ path }}</code>
          </li>
        </ul>
      </details>
      <details v-if="one.sentences.length">
        <summary>{{ t("language.missingSentences", one.sentences.length) }}</summary>
        <ul lang="en">
          <li v-for="(s, i) in one.sentences" :key="i">
            {{ s.text }} <small v-if="s.context" class="quiet">{{ s.context }}</small>
          </li>
        </ul>
      </details>
    </section>
  </div>
</template>

<style scoped>
summary { min-height: 56px; display: flex; align-items: center; cursor: pointer; font-weight: 560; }
ul { margin: 0; padding-left: 22px; } li { overflow-wrap: anywhere; }
</style>
