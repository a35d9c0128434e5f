<script setup lang="ts">
import { ref } from "vue";
import { useI18n } from "vue-i18n";

import { call } from "../api/client";
import { useSession } from "../app/session";
import { dayAndTime } from "../app/times";
import { useNews } from "../data/queries";

/** What others changed about whoever is signed in, until they say that they read it. */
const { t } = useI18n();
const session = useSession();
const { data, refetch } = useNews();
const says = ref("");
async function read() {
  const reply = await call("post", "/api/session/news", { body: { seq: data.value?.seq ?? 0 } });
  says.value = reply.ok ? "" : (reply.problem?.detail ?? t("connection.awayLong"));
  await refetch();
}
</script>

<template>
  <section v-if="data?.lines.length" class="card stack news" data-test="news">
    <h2 class="h3">{{ t("news.title") }}</h2>
    <ul>
      <li v-for="x in data.lines" :key="x.seq">
        <b>{{ x.says }}</b> {{ x.about
        }}<template v-if="x.details.to">{{ t("news.roles", { from: x.details.from ?? "", to: x.details.to }) }}</template> ·
        {{ t("account.by", { name: x.by || t("account.console") }) }} · {{ dayAndTime(x.at, session.zone)
        }}<template v-if="x.details.why"> · {{ t("news.why", { why: x.details.why }) }}</template>
      </li>
    </ul>
    <p class="quiet">{{ t("news.says") }}</p>
    <p v-if="says" role="alert">{{ says }}</p>
    <button type="button" class="button" data-test="news-read" @click="read">{{ t("news.read") }}</button>
  </section>
</template>

<style scoped>
.news { border-left: 5px solid var(--ink); } ul { margin: 0; padding-left: 20px; display: grid; gap: 6px; } p { margin: 0; } .button { align-self: flex-start; }
</style>
