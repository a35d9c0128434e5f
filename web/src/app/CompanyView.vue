<script setup lang="ts">
import { onMounted, ref } from "vue";
import { useI18n } from "vue-i18n";
import { useRoute, useRouter } from "vue-router";

import { call } from "../api/client";
import { deviceName } from "../parts/device";
import { cameBack } from "./company";
import { useEntering } from "./entering";
import mark from "./mark.svg";
import { useSession } from "./session";

/** The company sends the browser back here: what it brought is checked by the server, and the page goes on. */
const { t } = useI18n();
const session = useSession();
const route = useRoute();
const router = useRouter();
const { goOn } = useEntering();
const says = ref("");
const adds = ref(false);

onMounted(async () => {
  const { code, state } = route.query;
  // Out of the address and the way back at once; past the router, which would make the page anew.
  window.history.replaceState(window.history.state, "", route.path);
  const gone = typeof state === "string" ? cameBack(state) : null;
  if (!gone || typeof code !== "string" || typeof state !== "string") return void (says.value = t("signIn.companyNo"));
  adds.value = gone.adds;
  if (gone.adds) {
    const reply = await call("post", "/api/company", { body: { state, code } });
    if (!reply.ok) return void (says.value = reply.problem?.detail ?? t("connection.awayLong"));
    return void (await router.replace(gone.to));
  }
  const problem = await session.signInByCompany({ state, code, device: deviceName() });
  if (!problem) return void (await goOn(gone.to));
  says.value = problem === "away" ? t("connection.awayLong") : problem === "denied" ? t("signIn.denied") : problem.detail;
});
</script>

<template>
  <div class="page stack">
    <p class="brand"><img :src="mark" alt="" width="52" height="52" /> {{ t("app") }}</p>
    <h1>{{ t("signIn.enter") }}</h1>
    <p v-if="says" role="alert">{{ says }}</p>
    <p v-else role="status">{{ t("signIn.companyWait") }}</p>
    <p v-if="says">
      <RouterLink class="button primary" :to="{ name: adds ? 'sessions' : 'sign-in' }">{{ t("shell.again") }}</RouterLink>
    </p>
  </div>
</template>

<style scoped>
.page { max-width: 640px; margin: 0 auto; padding: 36px 24px; } .brand { display: flex; gap: 14px; align-items: center; font-size: 32px; font-weight: 740; margin: 0; }
</style>
