<script setup lang="ts">
import { computed } from "vue";
import { useI18n } from "vue-i18n";
import { useRoute } from "vue-router";

import { useOutbox } from "../parts/outbox";

const { t } = useI18n();
const outbox = useOutbox();
const route = useRoute();
const state = computed(() =>
  outbox.full ? "full" : outbox.away ? "away" : outbox.signedOut && outbox.waiting ? "signedOut" : outbox.waiting ? "sending" : "here",
);
</script>

<template>
  <p class="state" :class="state" role="status" data-test="connection">
    <span class="dot" aria-hidden="true"></span>
    <RouterLink v-if="state === 'signedOut'" :to="{ name: 'sign-in', query: { to: route.fullPath } }" data-test="sign-in-again">{{
      t("connection.signedOut", { n: outbox.waiting })
    }}</RouterLink>
    <span v-else>{{ t(`connection.${state}`, { n: outbox.waiting }) }}</span>
  </p>
</template>

<style scoped>
.state { display: inline-flex; align-items: center; gap: 8px; font-size: 16px; color: var(--soft); padding: 0 8px; }
.dot { width: 12px; height: 12px; border-radius: 50%; background: var(--sound); flex: none; }
.sending .dot { background: var(--card); border: 3px solid var(--watch); }
.signedOut a { color: inherit; min-height: 44px; display: inline-flex; align-items: center; }
.full { color: var(--hold); font-weight: 620; } .full .dot { background: var(--hold); }
.away, .signedOut { color: var(--hold); font-weight: 620; }
.away .dot, .signedOut .dot { border-radius: 0; transform: rotate(45deg); background: var(--hold); }
</style>
