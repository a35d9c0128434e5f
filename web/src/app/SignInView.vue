<script setup lang="ts">
import { computed, onMounted, ref } from "vue";
import { useI18n } from "vue-i18n";
import { useRoute, useRouter } from "vue-router";

import { call, type Schemas } from "../api/client";
import { deviceName } from "../parts/device";
import PinPad from "../parts/PinPad.vue";
import { canSeal } from "../parts/pens";
import { goToCompany } from "./company";
import { useEntering } from "./entering";
import { askKey, canUseKeys } from "./keys";
import LanguageButton from "./LanguageButton.vue";
import mark from "./mark.svg";
import { useSession } from "./session";

const { t } = useI18n();
const session = useSession();
const router = useRouter();
const route = useRoute();
const door = ref<Schemas["DoorOut"] | null>(null);
const chosen = ref<Schemas["PersonOut"] | null>(null);
const pin = ref("");
const says = ref("");
/** A PIN that somebody else gave is for choosing one's own: the one given, and the one that was chosen, to be typed twice. */
const given = ref("");
const own = ref("");
const SHORTEST = 6;
const ask = computed(() => {
  const name = chosen.value?.name ?? "";
  if (!chosen.value) return t("signIn.first");
  return given.value ? t(own.value ? "signIn.ownAgain" : "signIn.own", { name }) : t("signIn.pinOf", { name });
});
const busy = ref(false);
const { justChosen, goOn } = useEntering();
const pad = ref<HTMLElement | null>(null);
const keys = ref<InstanceType<typeof PinPad> | null>(null);

async function look() {
  const reply = await call("get", "/api/door");
  if (reply.ok) {
    door.value = reply.data;
    says.value = "";
    return;
  }
  // Nobody can sign in before there is a site: whoever has the console's code sets it up.
  if (reply.problem?.type === "/problems/no-site") return void router.replace({ name: "setup" });
  says.value = reply.problem?.detail ?? t("connection.awayLong");
  window.setTimeout(() => void look(), 3000);
}
onMounted(look);

function choose(person: Schemas["PersonOut"]) {
  chosen.value = person;
  pin.value = given.value = own.value = "";
  says.value = "";
  pad.value?.focus(); // so that a keyboard goes on with the digits
}

async function enter() {
  if (!chosen.value || pin.value.length < 4 || busy.value) return;
  const typed = pin.value;
  pin.value = ""; // what is typed while this one is looked at belongs to the next try
  says.value = ""; // and an answer that stands is always the last one's
  if (given.value && !own.value) {
    if (typed.length < SHORTEST) says.value = t("signIn.six");
    else own.value = typed;
    return;
  }
  if (given.value && own.value !== typed) {
    own.value = "";
    says.value = t("signIn.differs");
    return;
  }
  busy.value = true;
  const problem = await session.signIn(chosen.value.id, given.value || typed, deviceName(), own.value);
  busy.value = false;
  own.value = "";
  if (problem) {
    says.value = problem === "away" ? t("connection.awayLong") : problem === "denied" ? t("signIn.denied") : problem.detail;
    if (typeof problem !== "string" && problem.type === "/problems/choose-pin") given.value = typed;
    return;
  }
  given.value = "";
  await goOn(route.query.to);
}
/** With a key of one's own: it says who it is. */
async function byKey() {
  if (busy.value) return;
  says.value = "";
  busy.value = true;
  const asked = await call("post", "/api/session/passkey/options");
  const answer = asked.ok ? await askKey(asked.data.options) : null;
  const problem = answer ? await session.signInByKey(answer as unknown as Schemas["Credential"], deviceName()) : null;
  busy.value = false;
  if (!asked.ok) says.value = asked.problem?.detail ?? t("connection.awayLong");
  else if (!answer) says.value = t("signIn.noKey");
  else if (problem) says.value = problem === "away" ? t("connection.awayLong") : problem === "denied" ? t("signIn.denied") : problem.detail;
  else await goOn(route.query.to);
}
/** By one's account at the company: its page asks who it is, and comes back. */
async function byCompany() {
  if (busy.value) return;
  says.value = "";
  busy.value = true;
  const asked = await call("post", "/api/session/company/address");
  if (asked.ok) return goToCompany(asked.data, false, String(route.query.to ?? "/"));
  busy.value = false;
  says.value = asked.problem?.detail ?? t("connection.awayLong");
}
</script>

<template>
  <div class="door" @keydown="chosen && keys?.key($event)">
    <section>
      <p class="brand">
        <img :src="mark" alt="" width="52" height="52" /><span>{{ t("app") }}</span
        ><LanguageButton class="tongue" @chosen="justChosen = true" />
      </p>
      <h1>{{ t("signIn.title") }}</h1>
      <p class="quiet">{{ door?.site }}</p>
      <ul class="people">
        <li v-for="p in door?.people" :key="p.id">
          <button
            type="button"
            class="button person"
            :class="{ chosen: chosen?.id === p.id }"
            :aria-pressed="chosen?.id === p.id"
            @click="choose(p)">
            <span>{{ p.name }}</span><span class="role">{{ t(`role.${p.role}`) }}</span>
          </button>
        </li>
      </ul>
      <p v-if="door?.hint" class="quiet hint">{{ door.hint }}</p>
      <p v-if="session.denied" class="hint" role="alert" data-test="denied">{{ t("signIn.denied") }}</p>
      <p v-if="!canSeal()" class="quiet hint" data-test="no-seal">{{ t("signIn.noSeal") }}</p>
    </section>
    <section ref="pad" class="pad" tabindex="-1" :aria-label="t('signIn.pin')">
      <p class="ask" data-test="ask">{{ ask }}</p>
      <p class="says" role="alert">{{ says }}</p>
      <PinPad
        ref="keys"
        v-model="pin"
        :disabled="!chosen"
        :busy="busy"
        :enter="given ? t('signIn.take') : t('signIn.enter')"
        @enter="enter" />
      <button v-if="door?.keys && canUseKeys()" type="button" class="button key" :disabled="busy" data-test="with-key" @click="byKey">
        {{ t("signIn.key") }}
      </button>
      <button v-if="door?.company" type="button" class="button key" :disabled="busy" data-test="by-company" @click="byCompany">
        {{ t("signIn.company", { name: door.company }) }}
      </button>
    </section>
  </div>
</template>

<style scoped>
.door { display: grid; grid-template-columns: 1fr 380px; gap: 48px; max-width: 1060px; margin: 0 auto; padding: 36px 24px; min-height: 100%; align-items: start; }
.brand { display: flex; gap: 14px; align-items: center; font-size: 32px; font-weight: 740; margin-bottom: 22px; }
.tongue { margin-left: auto; } .key { width: 100%; margin-top: 16px; }
.people { list-style: none; padding: 0; margin: 18px 0; display: grid; grid-template-columns: 1fr 1fr; gap: 12px; }
.person { width: 100%; justify-content: space-between; min-height: 68px; }
.role { font-size: 16px; font-weight: 420; }
.pad:focus { outline: none; }
.pad { background: var(--card); border: 1px solid var(--line); border-radius: 16px; padding: 24px; margin-top: 70px; }
.ask { font-weight: 620; }
.says { color: var(--hold); min-height: 28px; margin: 4px 0; font-weight: 560; }
.hint { border-left: 4px solid var(--here); padding-left: 12px; }
@media (max-width: 800px) {
  .door { grid-template-columns: 1fr; gap: 14px; padding: 16px; }
  .people { grid-template-columns: 1fr; }
  .pad { margin-top: 0; }
}
</style>
