<script setup lang="ts">
import { useEventListener } from "@vueuse/core";
import { defineAsyncComponent, onMounted, ref, watch } from "vue";
import { useI18n } from "vue-i18n";
import { useRoute, useRouter } from "vue-router";

import { refused } from "../api/client";
import { useOutbox } from "../parts/outbox";
import { wanted } from "../parts/pinAgain";
import { whole } from "./i18n";
import { useIdle } from "./idle";
import ConnectionState from "./ConnectionState.vue";
import { useLanguage } from "./language";
import LanguageButton from "./LanguageButton.vue";
import mark from "./mark.svg";
import { notBrought } from "./pages";
import { useSession } from "./session";
import { useTheme } from "./useTheme";

// Only who asks for it loads the dialog.
const KeyHelp = defineAsyncComponent(() => import("./KeyHelp.vue"));
const IdleCover = defineAsyncComponent(() => import("./IdleCover.vue"));
const AskBar = defineAsyncComponent(() => import("./AskBar.vue"));
const PinAgain = defineAsyncComponent(() => import("../parts/PinAgain.vue"));
const { t } = useI18n();
const session = useSession();
const outbox = useOutbox();
const route = useRoute();
const router = useRouter();
const { next, toggle } = useTheme();
const { current } = useLanguage();
const help = ref(false);
/** On a phone: the pages that have no place in its one row. */
const more = ref(false);
const idle = useIdle();
const covered = idle.covered;

onMounted(() => void outbox.count().then(() => outbox.flush()));
useEventListener(window, "keydown", (e: KeyboardEvent) => {
  const typing = e.target instanceof HTMLElement && e.target.closest("input, textarea, select, [contenteditable]");
  if (e.key === "?" && !typing) help.value = true;
});
// Where somebody stands at the machine in gloves, whatever is touched is larger: dialogs too, which stand beside the page.
watch(
  () => Boolean(route.meta.gloves),
  (gloves) => document.documentElement.classList.toggle("gloves", gloves),
  { immediate: true },
);
// What was told to one person is not the next one's.
watch(
  () => session.person?.id,
  (now, before) => {
    if (before && now !== before) void import("../data/queries").then((told) => told.forgetAll());
  },
);

watch(
  () => route.path,
  () => (more.value = false),
);

async function leave() {
  await session.signOut();
  await router.push({ name: "sign-in" });
}
</script>

<template>
  <a class="skip" href="#main">{{ t("shell.skip") }}</a>
  <header v-if="whole && !route.meta.bare && !route.meta.open && session.person" class="shell">
    <RouterLink to="/today" class="home" :aria-label="`${t('app')}: ${t('today.title')}`"
      ><img :src="mark" alt="" width="40" height="40" /><span>{{ t("app") }}</span></RouterLink
    >
    <nav :aria-label="t('shell.nav')" :class="{ whole: more }">
      <RouterLink to="/today" class="tab" data-test="today">{{ t("today.title") }}</RouterLink>
      <RouterLink to="/" class="tab">{{ t("yard.title") }}</RouterLink>
      <RouterLink to="/records" class="tab">{{ t("records.title") }}</RouterLink>
      <RouterLink to="/defects" class="tab">{{ t("defects.title") }}</RouterLink>
      <button class="tab more" type="button" :aria-expanded="more" data-test="more-pages" @click="more = !more">
        {{ t("shell.more") }}
      </button>
      <RouterLink to="/readings" class="tab rest">{{ t("reading.tab") }}</RouterLink>
      <RouterLink to="/rulebook" class="tab rest">{{ t("rules.title") }}</RouterLink>
      <RouterLink v-if="session.may('edit-machines') || session.may('teach')" to="/models" class="tab rest">{{
        t("models.title")
      }}</RouterLink>
      <RouterLink v-if="session.may('manage')" to="/people" class="tab rest">{{ t("people.title") }}</RouterLink>
    </nav>
    <div class="end">
      <ConnectionState />
      <RouterLink to="/emergency" class="button plain sos" :aria-label="t('emergency.title')" data-test="emergency"
        ><svg viewBox="0 0 32 28" width="34" height="30" aria-hidden="true">
          <path d="M16 2L30 26H2Z" />
          <path d="M16 10V18M16 22V22.5" /></svg
      ></RouterLink>
      <button class="button plain help" type="button" :aria-label="t('shell.help')" @click="help = true">?</button>
      <LanguageButton class="tongue" />
      <button class="button plain light" type="button" :aria-label="t(`shell.${next}`)" data-test="light" @click="toggle">
        <span>{{ t(`shell.${next}`) }}</span>
        <svg viewBox="0 0 24 24" width="24" height="24" aria-hidden="true">
          <circle cx="12" cy="12" r="9" />
          <path d="M12 3a9 9 0 0 1 0 18z" />
        </svg>
      </button>
      <button class="button plain who" type="button" @click="leave">
        <b>{{ session.person.name }}</b><b class="short" aria-hidden="true">{{ session.person.name.split(" ")[0] }}</b
        ><span class="quiet">{{ t("shell.out") }}</span>
      </button>
    </div>
  </header>
  <p v-if="notBrought" class="unbrought" role="alert" data-test="not-brought">
    {{ t("shell.notBrought") }} <button class="button" type="button" @click="router.push(notBrought)">{{ t("shell.again") }}</button>
  </p>
  <IdleCover v-if="covered && whole" :give="idle.give" @word="idle.word" @other="leave" />
  <main id="main" tabindex="-1" :inert="covered"><RouterView :key="`${route.meta.keeps ? route.path : route.fullPath} ${current}`" /></main>
  <AskBar v-if="refused && session.person" />
  <KeyHelp v-if="help" v-model="help" />
  <PinAgain v-if="wanted" />
</template>

<style scoped>
main { outline: none; }
.skip { position: absolute; left: -999px; }
.skip:focus { left: 12px; top: 12px; z-index: 99; background: var(--card); padding: 12px; }
.shell { display: flex; align-items: center; gap: 28px; padding: 4px 24px; border-bottom: 2px solid var(--ink); min-height: 68px; }
.home { display: flex; align-items: center; gap: 12px; font-weight: 720; font-size: 22px; color: var(--ink); text-decoration: none; min-height: 56px; }
nav { display: flex; gap: 8px; min-width: 0; } .tab.more { display: none; }
@media (max-width: 1100px) { nav { overflow-x: auto; } .end { flex: none; } }
.tab { min-height: 56px; display: inline-flex; align-items: center; padding: 0 16px; color: var(--ink); text-decoration: none; font-weight: 560; border-bottom: 4px solid transparent; border-top: 4px solid transparent; }
.tab.router-link-exact-active { border-bottom-color: var(--here); }
.end { margin-left: auto; display: flex; align-items: center; gap: 4px; }
.unbrought { position: fixed; inset: auto 0 0; z-index: 60; margin: 0; padding: 14px 20px; display: flex; flex-wrap: wrap; align-items: center; gap: 16px; background: var(--card); border-top: 3px solid var(--ink); }
.sos { color: var(--hold); } .sos path { fill: none; stroke: currentColor; stroke-width: 3; stroke-linecap: round; stroke-linejoin: round; }
.who { flex-direction: column; gap: 0; line-height: 1.15; }
.light svg, .short { display: none; }
.light circle { fill: none; stroke: currentColor; stroke-width: 2; } .light path { fill: currentColor; }
.who b { white-space: nowrap; }
@media (max-width: 1300px) { .tab { padding: 0 7px !important; } .end { gap: 0; } .home span { display: none; } }
@media (max-width: 1400px) { .shell { gap: 14px; padding: 4px 16px; } nav { gap: 0; } .tab { padding: 0 11px; } .home { gap: 8px; } .end .button { padding: 6px 10px; } }
@media print { .shell { display: none; } }
/* On a phone the tabs have a row of their own: what a shift needs, and the rest below on a tap. A phone has no keys to be told of. */
@media (max-width: 700px) {
  .shell { gap: 0; padding: 0 4px; min-height: 60px; flex-wrap: wrap; }
  .home { padding: 0 6px; } .home span, .help, .tongue, .light span, .who b:not(.short) { display: none; }
  .light svg { display: block; } .short { display: inline; }
  nav { order: 3; width: 100%; gap: 0; min-width: 0; justify-content: space-between; border-top: 1px solid var(--line); } .tab { padding: 0 10px; min-height: 52px; }
  .tab.more { display: inline-flex; background: none; border-inline: 0; font: inherit; font-weight: 560; cursor: pointer; } .tab.rest { display: none; }
  nav.whole { flex-wrap: wrap; justify-content: flex-start; } nav.whole .tab.rest { display: inline-flex; border-top: 1px solid var(--line); flex: 1 0 auto; }
  nav:has(.rest.router-link-exact-active) .more { border-bottom-color: var(--here); }
  .end { gap: 0; flex: none; }
  .end :deep(.state) { padding: 0 4px; } .end :deep(.state:not(.here)) { max-width: 128px; font-size: 14px; line-height: 1.1; }
  .end :deep(.state.here span:not(.dot)) { position: absolute; width: 1px; height: 1px; overflow: hidden; clip-path: inset(50%); white-space: nowrap; }
  .end .button { padding: 4px 8px; min-width: 56px; }
}
@media (max-width: 360px) { .tab { padding: 0 4px !important; } }
</style>
