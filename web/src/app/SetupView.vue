<script setup lang="ts">
import { ElInput, ElOption, ElSelect } from "element-plus";
import { computed, onMounted, reactive, ref } from "vue";
import { useI18n } from "vue-i18n";
import { useRouter } from "vue-router";

import { call, type Schemas } from "../api/client";
import LanguageButton from "./LanguageButton.vue";
import mark from "./mark.svg";
import NumberField from "../parts/NumberField.vue";

/** A new installation: the site, its shifts, whom to call, and its first administrator. The code comes from the console. */
const { t } = useI18n();
const router = useRouter();
const told = ref<Schemas["SetupOut"] | null>(null);
const made = ref<Schemas["FirstPinOut"] | null>(null);
const says = ref("");
const wrong = ref("");
const busy = ref(false);
const zones = Intl.supportedValuesOf("timeZone");
const units = computed<[Schemas["UnitSystem"], string][]>(() => [
  ["metric", t("setup.unit.metric")],
  ["us", t("setup.unit.us")],
]);
/** A usual shift, to be changed. */
const newShift = (begins: string, length = 8) => ({ begins, hours: length });
const form = reactive({
  code: "",
  name: "",
  zone: Intl.DateTimeFormat().resolvedOptions().timeZone,
  regime: "house",
  units: "metric" as Schemas["UnitSystem"],
  shifts: [newShift("06:00")],
  numbers: [
    ["", ""],
    ["", ""],
  ] as [string, string][],
  chief: "",
});

onMounted(async () => {
  const reply = await call("get", "/api/setup");
  if (!reply.ok) return void (says.value = reply.problem?.detail ?? t("connection.awayLong"));
  if (!reply.data.needed) return void router.replace({ name: "sign-in" });
  told.value = reply.data;
});

async function save() {
  busy.value = true;
  says.value = wrong.value = "";
  const reply = await call("post", "/api/setup", { body: { ...form, numbers: form.numbers.filter(([who, which]) => who && which) } });
  busy.value = false;
  if (reply.ok) return void (made.value = reply.data);
  says.value = reply.problem?.detail ?? t("connection.awayLong");
  wrong.value = reply.problem?.field ?? "";
}
/** The field that an answer of the server was about. */
const is = (field: string) => wrong.value === field || wrong.value.startsWith(`${field}.`);
</script>

<template>
  <form class="page stack" @submit.prevent="save">
    <p class="brand">
      <img :src="mark" alt="" width="52" height="52" /><span>{{ t("app") }}</span
      ><LanguageButton class="tongue" />
    </p>
    <h1>{{ t("setup.title") }}</h1>
    <section v-if="made" class="card stack" data-test="made">
      <h2>{{ t("setup.done", { name: made.person }) }}</h2>
      <p class="pin" data-test="first-pin">{{ made.pin }}</p>
      <p>{{ t("setup.once") }}</p>
      <button type="button" class="button primary" data-test="to-sign-in" @click="router.push({ name: 'sign-in' })">
        {{ t("setup.signIn") }}
      </button>
      <h2>{{ t("setup.next") }}</h2>
      <ol>
        <li v-for="step in t('setup.steps').split(' / ')" :key="step">{{ step }}</li>
      </ol>
    </section>
    <template v-else-if="told">
      <p>{{ t("setup.says") }}</p>
      <label :class="{ wrong: is('code') }"
        >{{ t("setup.code") }}<ElInput v-model="form.code" maxlength="40" autocomplete="off" data-test="code"
      /></label>
      <h2>{{ t("setup.site") }}</h2>
      <label :class="{ wrong: is('name') }">{{ t("setup.name") }}<ElInput v-model="form.name" maxlength="80" data-test="name" /></label>
      <label :class="{ wrong: is('zone') }"
        >{{ t("setup.zone")
        }}<ElSelect v-model="form.zone" filterable :aria-label="t('setup.zone')"
          ><ElOption v-for="z in zones" :key="z" :value="z" :label="z" /></ElSelect
      ></label>
      <label :class="{ wrong: is('regime') }"
        >{{ t("setup.regime")
        }}<ElSelect v-model="form.regime" :aria-label="t('setup.regime')" data-test="regime"
          ><ElOption v-for="r in told.regimes" :key="r.id" :value="r.id" :label="r.name" /></ElSelect
      ></label>
      <label
        >{{ t("setup.units")
        }}<ElSelect v-model="form.units" :aria-label="t('setup.units')"
          ><ElOption v-for="[id, name] in units" :key="id" :value="id" :label="name" /></ElSelect
      ></label>
      <h2>{{ t("setup.shifts") }}</h2>
      <p class="quiet">{{ t("setup.shiftsSay") }}</p>
      <div v-for="(shift, n) in form.shifts" :key="n" class="row wrap" :class="{ wrong: is('shifts') }">
        <label>{{ t("setup.begins") }}<input v-model="shift.begins" type="time" class="time" :data-test="`begins-${n}`" /></label>
        <label>{{ t("setup.hours") }}<NumberField v-model="shift.hours" :min="1" :max="16" :aria-label="t('setup.hours')" /></label>
        <button v-if="form.shifts.length > 1" type="button" class="button plain" @click="form.shifts.splice(n, 1)">
          {{ t("setup.less") }}
        </button>
      </div>
      <button type="button" class="button" data-test="more-shifts" @click="form.shifts.push(newShift('14:00'))">
        {{ t("setup.moreShifts") }}
      </button>
      <h2>{{ t("setup.numbers") }}</h2>
      <div v-for="(number, n) in form.numbers" :key="n" class="row wrap">
        <label>{{ t("setup.who") }}<ElInput v-model="number[0]" maxlength="80" :data-test="`who-${n}`" /></label>
        <label>{{ t("setup.which") }}<ElInput v-model="number[1]" maxlength="80" inputmode="tel" :data-test="`which-${n}`" /></label>
      </div>
      <button type="button" class="button" @click="form.numbers.push(['', ''])">{{ t("setup.moreNumbers") }}</button>
      <h2>{{ t("setup.first") }}</h2>
      <label>{{ t("setup.administrator") }}<ElInput v-model="form.chief" maxlength="80" data-test="chief" /></label>
      <p class="says" role="alert">{{ says }}</p>
      <button type="submit" class="button primary" :disabled="busy" data-test="set-up">{{ t("setup.save") }}</button>
    </template>
    <p v-else-if="says" role="alert">{{ says }}</p>
  </form>
</template>

<style scoped>
form { max-width: 720px; }
.brand { display: flex; gap: 14px; align-items: center; font-size: 32px; font-weight: 740; }
.tongue { margin-left: auto; }
label { display: grid; gap: 6px; font-weight: 560; }
.time { min-height: 56px; padding: 0 14px; font: inherit; border: 1.5px solid var(--ink); border-radius: 10px; background: var(--card); color: var(--ink); }
.row label { flex: 1 1 220px; }
.wrong { border-left: 5px solid var(--hold); padding-left: 12px; }
.says { color: var(--hold); font-weight: 560; min-height: 28px; }
.pin { font-size: 44px; font-weight: 700; letter-spacing: 4px; margin: 0; }
h2 { margin-top: 12px; }
</style>
