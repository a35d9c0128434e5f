<script setup lang="ts">
import { computed, ref } from "vue";
import { useI18n } from "vue-i18n";

import { call, type Schemas } from "../api/client";
import { useSession } from "../app/session";
import { dayAndTime } from "../app/times";
import { useSays, useSessions } from "../data/queries";
import CompanyCard from "./CompanyCard.vue";
import KeysCard from "./KeysCard.vue";
import PageState from "../parts/PageState.vue";

/** Where somebody is signed in; a tablet that was lost is signed out from here. */
const { t } = useI18n();
const session = useSession();
const { data, error, refetch } = useSessions();
const unread = useSays(error);
const undone = ref("");
const says = computed(() => undone.value || unread.value);

async function end(line: Schemas["SignedInLineOut"]) {
  undone.value = "";
  const reply = await call("delete", "/api/sessions/{pen}", { params: { path: { pen: line.id } } });
  if (!reply.ok) undone.value = reply.problem?.detail ?? t("connection.awayLong");
  await refetch();
}
</script>

<template>
  <div class="page stack">
    <h1>{{ t("sessions.title") }}</h1>
    <p class="quiet">{{ t("sessions.says") }}</p>
    <CompanyCard />
    <KeysCard />
    <PageState :says="says" :waits="!data" />
    <ul data-test="sessions">
      <li v-for="line in data" :key="line.id" class="card row spread wrap">
        <span
          ><b>{{ line.name }}</b> · {{ line.device }}<br /><span class="quiet">{{
            t("sessions.from", { since: dayAndTime(line.since, session.zone), until: dayAndTime(line.until, session.zone) })
          }}</span></span
        >
        <b v-if="line.own">{{ t("sessions.here") }}</b>
        <button v-else type="button" class="button" :data-test="`end-${line.device}`" @click="end(line)">{{ t("sessions.end") }}</button>
      </li>
    </ul>
  </div>
</template>

<style scoped>
ul { list-style: none; margin: 0; padding: 0; display: grid; gap: 10px; }
</style>
