<script setup lang="ts">
import { ref } from "vue";
import { useI18n } from "vue-i18n";

import { call } from "../api/client";
import { useSession } from "../app/session";
import { dayAndTime } from "../app/times";
import { useAsks } from "../data/queries";

/** What others ask of this person's role, because they may not do it themselves; and what this person asks. */
const { t } = useI18n();
const session = useSession();
const { data, refetch } = useAsks();
const says = ref("");
async function done(id: string) {
  const reply = await call("post", "/api/asks/{ask}/done", { params: { path: { ask: id } } });
  says.value = reply.ok ? "" : (reply.problem?.detail ?? t("connection.awayLong"));
  await refetch();
}
</script>

<template>
  <section v-if="data?.length" class="stack" data-test="asks">
    <h2>{{ t("ask.title") }}</h2>
    <ul>
      <li v-for="a in data" :key="a.id" class="card row spread wrap">
        <span class="grow"
          ><b>{{ a.own ? t("ask.mine", { page: a.note || a.path }) : t("ask.of", { name: a.by, page: a.note || a.path }) }}</b
          ><br /><span class="quiet">{{ dayAndTime(a.at, session.zone) }}</span></span
        >
        <RouterLink v-if="!a.own" class="button primary" :to="a.path">{{ t("ask.open") }}</RouterLink>
        <button type="button" class="button" data-test="ask-done" @click="done(a.id)">{{ t(a.own ? "ask.back" : "ask.done") }}</button>
      </li>
    </ul>
    <p v-if="says" role="alert">{{ says }}</p>
  </section>
</template>

<style scoped>
ul { list-style: none; margin: 0; padding: 0; display: grid; gap: 10px; } .grow { flex: 1; min-width: 220px; overflow-wrap: anywhere; } p { margin: 0; }
</style>
