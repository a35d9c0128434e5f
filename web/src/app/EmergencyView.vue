<script setup lang="ts">
import { ref } from "vue";
import { useI18n } from "vue-i18n";
import { useRoute, useRouter } from "vue-router";

import { CARDS, stepsOf } from "./emergency";
import { useSession } from "./session";

/** What to do at once, one tap away from everywhere, signed in or not, with no network; the site's own numbers first. */
const { t } = useI18n();
const router = useRouter();
const machine = String(useRoute().query.machine ?? "");
const session = useSession();
const open = ref("");
const back = () => (window.history.length > 1 ? router.back() : router.push("/"));
</script>

<template>
  <div class="page stack">
    <div class="row spread wrap">
      <h1>{{ t("emergency.title") }}</h1>
      <button type="button" class="button" data-test="back" @click="back">{{ t("emergency.back") }}</button>
    </div>
    <p class="numbers" data-test="numbers">
      <template v-if="session.numbers.length"
        ><a v-for="[who, number] in session.numbers" :key="who" class="button" :href="`tel:${number.replaceAll(' ', '')}`"
          >{{ who }}: <b>{{ number }}</b></a
        ></template
      ><span v-else>{{ t("emergency.noNumbers") }}</span>
    </p>
    <div class="cards">
      <section v-for="c in CARDS" :key="c" class="card" :class="{ open: open === c }">
        <h2>
          <button type="button" class="title" :aria-expanded="open === c" :data-test="`card-${c}`" @click="open = open === c ? '' : c">
            {{ t(`emergency.${c}.title`) }}
          </button>
        </h2>
        <ol v-if="open === c">
          <li v-for="s in stepsOf(t(`emergency.${c}.steps`))" :key="s">{{ s }}</li>
        </ol>
      </section>
    </div>
    <div class="row spread wrap">
      <p class="quiet">{{ t("caution") }}</p>
      <div class="row wrap">
        <RouterLink v-if="machine" class="button" :to="{ name: 'incident', params: { machine } }" data-test="happened">{{
          t("incident.link")
        }}</RouterLink><RouterLink class="button" to="/jobs" data-test="jobs">{{ t("jobs.link") }}</RouterLink>
      </div>
    </div>
  </div>
</template>

<style scoped>
.numbers { display: flex; flex-wrap: wrap; gap: 12px; } .numbers .button { border-color: var(--hold); font-size: 20px; gap: 6px; }
.cards { display: grid; grid-template-columns: repeat(auto-fill, minmax(min(320px, 100%), 1fr)); gap: 12px; align-items: start; } .card { padding: 0; border-left: 8px solid var(--hold); } .card.open { grid-column: 1 / -1; }
.title { width: 100%; min-height: 72px; text-align: left; background: none; border: 0; padding: 10px 16px; font-weight: 680; font-size: 21px; cursor: pointer; line-height: 1.15; }
ol { margin: 0; padding: 0 18px 16px 44px; font-size: 24px; line-height: 1.35; } li { padding: 4px 0; }
</style>
