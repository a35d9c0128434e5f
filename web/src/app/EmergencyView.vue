<script setup lang="ts">
import { nextTick, onBeforeUnmount, ref } from "vue";
import { useI18n } from "vue-i18n";
import { useRoute, useRouter } from "vue-router";

import { locale } from "./language";
import { CARDS, stepsOf } from "./emergency";
import { readOut, voice } from "../parts/voice";
import { useSession } from "./session";
import StepPicture from "./StepPicture.vue";

/** What to do at once, one tap away from everywhere, signed in or not, with no network; the site's own numbers first. */
type Card = (typeof CARDS)[number];
const { t } = useI18n();
const router = useRouter();
const machine = String(useRoute().query.machine ?? "");
const session = useSession();
const open = ref<Card | "">("");
/** Which step is being read aloud. */
const read = ref(-1);
/** As a poster all cards are open. */
const poster = ref(false);
const back = () => (window.history.length > 1 ? router.back() : router.push("/"));
const steps = (card: Card) => stepsOf(t(`emergency.${card}.steps`));

let hush = () => {};
onBeforeUnmount(() => hush());
function show(card: Card) {
  hush();
  open.value = open.value === card ? "" : card;
}
/** One step after the other, slowly; the one that is read is marked. */
function aloud(card: Card) {
  if (read.value >= 0) return hush();
  hush = readOut(steps(card), locale.value, (n) => (read.value = n));
}
async function print() {
  poster.value = true;
  await nextTick();
  window.print();
  poster.value = false;
}
</script>

<template>
  <div class="page stack" :class="{ poster }">
    <div class="row spread wrap">
      <h1>{{ t("emergency.title") }}</h1>
      <div class="row wrap tools">
        <button type="button" class="button" data-test="poster" @click="print">{{ t("emergency.poster") }}</button>
        <button type="button" class="button" data-test="back" @click="back">{{ t("emergency.back") }}</button>
      </div>
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
          <button type="button" class="title" :aria-expanded="open === c" :data-test="`card-${c}`" @click="show(c)">
            <StepPicture v-if="open !== c" class="sign" :card="c" :step="0" />{{ t(`emergency.${c}.title`) }}
          </button>
        </h2>
        <button v-if="open === c && voice.there && !poster" type="button" class="button aloud" data-test="aloud" @click="aloud(c)">
          {{ read >= 0 ? t("emergency.hush") : t("emergency.aloud") }}
        </button>
        <ol v-if="open === c || poster">
          <li v-for="(s, n) in steps(c)" :key="s" :class="{ now: read === n && open === c }">
            <StepPicture :card="c" :step="n" /><span>{{ s }}</span>
          </li>
        </ol>
      </section>
    </div>
    <div class="row spread wrap">
      <p class="quiet">{{ t("caution") }}</p>
      <div class="row wrap tools">
        <RouterLink v-if="machine" class="button" :to="{ name: 'incident', params: { machine } }" data-test="happened">{{
          t("incident.link")
        }}</RouterLink><RouterLink class="button" to="/jobs" data-test="jobs">{{ t("jobs.link") }}</RouterLink>
      </div>
    </div>
  </div>
</template>

<style scoped>
.numbers { display: flex; flex-wrap: wrap; gap: 12px; } .numbers .button { border-color: var(--hold); font-size: 20px; gap: 6px; } .numbers b { white-space: nowrap; }
.cards { display: grid; grid-template-columns: repeat(auto-fill, minmax(min(320px, 100%), 1fr)); gap: 12px; align-items: start; } .card { padding: 0; border-left: 8px solid var(--hold); } .card.open { grid-column: 1 / -1; }
.title { width: 100%; min-height: 88px; text-align: left; background: none; border: 0; padding: 6px 16px; font-weight: 680; font-size: 21px; cursor: pointer; line-height: 1.15; display: flex; align-items: center; gap: 14px; } .sign { width: 92px; flex: none; }
.aloud { margin: 0 16px 8px; }
ol { margin: 0; padding: 0 16px 16px; list-style: none; counter-reset: step; display: grid; grid-template-columns: repeat(auto-fill, minmax(min(300px, 100%), 1fr)); gap: 12px; }
li { counter-increment: step; display: grid; grid-template-columns: 138px 1fr; gap: 12px; align-items: center; font-size: 21px; line-height: 1.25; padding: 6px; border: 2px solid var(--line); border-radius: 10px; background: var(--paper); }
li span::before { content: counter(step) ". "; font-weight: 720; } li.now { border-color: var(--here); border-width: 4px; padding: 4px; }
@media print {
  .tools { display: none; } .card { break-inside: avoid; border-width: 1px 1px 1px 6px; } .title { min-height: 0; padding: 6px 10px; font-size: 17px; } .sign { display: none; }
  .cards { grid-template-columns: 1fr; gap: 8px; } ol { grid-template-columns: repeat(3, 1fr); gap: 6px; padding: 0 10px 8px; } li { grid-template-columns: 76px 1fr; font-size: 12px; gap: 6px; } .numbers .button { min-height: 0; font-size: 18px; }
}
</style>
