<script setup lang="ts">
import { ElInput, ElOption, ElSelect } from "element-plus";
import { computed, onMounted, ref } from "vue";
import { useI18n } from "vue-i18n";

import { call, type Schemas } from "../api/client";
import PageState from "../parts/PageState.vue";
import RuleRows from "./RuleRows.vue";
import WhatIf from "./WhatIf.vue";

/** The rulebook, a page for each duty: read, searched, tried out. */
const { t } = useI18n();
const book = ref<Schemas["RulebookOut"] | null>(null);
const says = ref("");
const failed = ref("");
const at = ref("stop");
const regime = ref("house");
const words = ref("");
const tried = ref<Schemas["RowOut"] | null>(null);

onMounted(async () => {
  const reply = await call("get", "/api/rulebook");
  if (!reply.ok) return (failed.value = reply.problem?.detail ?? t("connection.awayLong"));
  book.value = reply.data;
  regime.value = reply.data.regime;
});
const duty = computed(() => book.value?.duties.find((d) => d.id === at.value) ?? null);
const chosen = computed(() => book.value?.regimes.find((r) => r.id === regime.value) ?? null);
const modeName = (id: string) => book.value?.modes.find((m) => m.id === id)?.name ?? id;
const plain = (text: string) => text.normalize("NFD").replace(/\p{M}/gu, "").toLowerCase();
/** Every rule that has all the words, in itself, its duty or its failure. */
const hits = computed(() => {
  const all = plain(words.value).split(/\s+/).filter(Boolean);
  if (!all.length || !book.value) return null;
  const of = book.value.duties.flatMap((d) =>
    d.rules.map((r) => ({ r, text: plain(`${d.name} ${modeName(r.mode)} ${r.when} ${r.says} ${r.limit} ${r.source} ${r.id}`), d })),
  );
  const rest = [...book.value.anywhere, ...book.value.together, ...(chosen.value?.floors ?? [])].map((r) => ({
    r,
    text: plain(`${modeName(r.mode)} ${r.when} ${r.says} ${r.limit} ${r.source} ${r.id}`),
    d: null,
  }));
  return [...of, ...rest].filter((x) => all.every((w) => x.text.includes(w))).map((x) => x.r);
});
const groups = computed(() =>
  (duty.value?.modes ?? []).map((id) => ({ id, rules: duty.value!.rules.filter((r) => r.mode === id) })).filter((g) => g.rules.length),
);
async function goBy() {
  const reply = await call("put", "/api/rulebook/regime", { body: { regime: regime.value } });
  if (reply.ok && book.value) book.value.regime = regime.value;
  says.value = reply.ok ? t("rules.chosen", { name: reply.data }) : (reply.problem?.detail ?? t("connection.awayLong"));
}
</script>

<template>
  <div class="page stack">
    <div class="row spread wrap">
      <h1>{{ t("rules.title") }}</h1>
      <RouterLink class="button plain" to="/schools" data-test="to-schools">{{ t("schools.title") }}</RouterLink>
      <RouterLink class="button plain" to="/training">{{ t("training.title") }}</RouterLink>
      <ElInput
        v-model="words"
        class="search"
        :placeholder="t('rules.search')"
        :aria-label="t('rules.search')"
        clearable
        data-test="rules-search" />
    </div>
    <PageState :says="failed" :waits="!book" :lines="6" />
    <p v-if="says" role="status">{{ says }}</p>
    <template v-if="book">
      <section v-if="chosen" class="card stack regime">
        <div class="row wrap">
          <label for="regime">{{ t("rules.regime") }}</label>
          <ElSelect id="regime" v-model="regime" class="pick" :aria-label="t('rules.regime')"
            ><ElOption v-for="r in book.regimes" :key="r.id" :value="r.id" :label="r.name"
          /></ElSelect>
          <span v-if="book.regime === regime"
            ><b>{{ t("rules.here") }}</b></span
          >
          <button v-else-if="book.may_choose" type="button" class="button" data-test="go-by" @click="goBy">{{ t("rules.goBy") }}</button>
          <span v-else class="quiet">{{ t("rules.notHere") }}</span>
        </div>
        <p>
          {{ chosen.scope }} <b>{{ chosen.caution }}</b>
        </p>
        <details>
          <summary>{{ t("rules.floors", { n: chosen.floors.length }) }}</summary>
          <p v-for="r in chosen.records" :key="r">{{ r }}</p>
          <RuleRows :rules="chosen.floors" />
        </details>
      </section>
      <section v-if="hits" class="card stack" data-test="hits">
        <h2>{{ t("rules.hits", { n: hits.length }) }}</h2>
        <RuleRows :rules="hits.slice(0, 60)" />
      </section>
      <div v-else class="two">
        <nav class="duties" :aria-label="t('rules.duties')">
          <button
            v-for="d in book.duties"
            :key="d.id"
            type="button"
            class="button"
            :class="{ chosen: d.id === at }"
            :aria-pressed="d.id === at"
            :data-test="`duty-${d.id}`"
            @click="
              at = d.id;
              tried = null;
            ">
            {{ d.name }}
          </button>
          <button type="button" class="button" :class="{ chosen: at === '' }" :aria-pressed="at === ''" @click="at = ''">
            {{ t("rules.anywhere") }}
          </button>
        </nav>
        <div v-if="duty" class="stack">
          <section class="card stack">
            <h2>{{ duty.name }}</h2>
            <p class="quiet">
              {{ duty.life ? t("rules.life") : t("rules.notLife") }} {{ t("rules.parts", { parts: duty.parts.slice(0, 12).join(", ") }) }}
            </p>
            <section v-for="g in groups" :key="g.id">
              <h3>{{ modeName(g.id) }}</h3>
              <RuleRows :rules="g.rules" :duty="duty.id" :chosen="tried?.id" pick @pick="(r) => (tried = r)" />
            </section>
          </section>
          <WhatIf :book="book" :duty="duty" :regime="regime" :from="tried" />
        </div>
        <section v-else class="card stack">
          <RuleRows :rules="[...book.anywhere, ...book.together]" />
          <h2>{{ t("rules.sources") }}</h2>
          <p v-for="s in book.sources" :key="s.text">
            <b>{{ s.text }}</b> {{ s.scope }} <small v-if="s.from_memory" class="quiet">{{ t("rules.memory") }}</small>
          </p>
        </section>
      </div>
    </template>
  </div>
</template>

<style scoped>
.search { width: min(420px, 100%); } .pick { width: 300px; }
.regime { gap: 8px; } summary { min-height: 56px; display: flex; align-items: center; cursor: pointer; font-weight: 560; }
.two { display: grid; grid-template-columns: 220px minmax(0, 1fr); gap: 20px; align-items: start; }
.duties { display: grid; gap: 6px; } .duties .button { text-align: left; justify-content: flex-start; min-height: 56px; font-weight: 520; }
.duties .chosen { background: var(--ink); color: var(--paper); }
h3 { margin: 14px 0 6px; }
@media (max-width: 800px) { .two { grid-template-columns: minmax(0, 1fr); } .duties { display: flex; overflow-x: auto; } .duties .button { flex: none; } }
</style>
