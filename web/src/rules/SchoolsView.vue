<script setup lang="ts">
import { computed, ref } from "vue";
import { useI18n } from "vue-i18n";

import { call } from "../api/client";
import { useSession } from "../app/session";
import { day } from "../app/times";
import { useSays, useSchools } from "../data/queries";
import { uuid4 } from "../parts/device";
import PageState from "../parts/PageState.vue";
import SignDrawing from "../parts/SignDrawing.vue";
import { CHOICE_SIGNS, SCHOOL_SIGNS } from "./schoolSigns";

/** How this site does what good hands do differently: one answer to each question, who gave it, and why it matters. */
const { t } = useI18n();
const session = useSession();
const { data, error, refetch } = useSchools();
const unread = useSays(error);
const unsaved = ref("");
const says = computed(() => unsaved.value || unread.value);
const may = computed(() => session.may("decide-schools"));
async function choose(school: string, choice: string) {
  unsaved.value = "";
  const reply = await call("put", "/api/schools/{school}", { params: { path: { school } }, body: { id: uuid4(), choice } });
  if (!reply.ok) unsaved.value = reply.problem?.detail ?? t("connection.awayLong");
  await refetch();
}
</script>

<template>
  <div class="page stack">
    <h1>{{ t("schools.title") }}</h1>
    <p class="quiet">{{ t("schools.says") }} {{ t("caution") }}</p>
    <PageState :says="says" :waits="!data" :lines="5" />
    <section v-for="s in data" :key="s.id" class="card stack" :data-test="`school-${s.id}`">
      <h2 class="h3 asks">
        <SignDrawing :sign="SCHOOL_SIGNS[s.id] ?? []" :width="60" />{{ s.asks
        }}<small v-if="s.families.length">{{ s.families.join(", ") }}</small>
      </h2>
      <p class="quiet">{{ s.why }}</p>
      <div class="choices" role="radiogroup" :aria-label="s.asks">
        <button
          v-for="c in s.choices"
          :key="c.id"
          type="button"
          role="radio"
          class="button"
          :class="{ chosen: s.choice === c.id }"
          :aria-checked="s.choice === c.id"
          :disabled="!may || s.by_model || s.choices.length === 1"
          :data-test="`choice-${s.id}-${c.id}`"
          @click="choose(s.id, c.id)">
          <SignDrawing v-if="CHOICE_SIGNS[`${s.id}/${c.id}`]" :sign="CHOICE_SIGNS[`${s.id}/${c.id}`]!" :width="72" /><b>{{ c.name }}</b
          ><span>{{ c.why }}</span>
        </button>
      </div>
      <p class="quiet">
        {{
          s.choices.length === 1
            ? t("schools.settled")
            : s.by_model
              ? t("schools.byModel")
              : s.by
                ? t("schools.by", { by: s.by, at: day(s.at!, session.zone) })
                : t("schools.usual")
        }}
      </p>
      <ul v-if="Object.keys(s.models).length">
        <li v-for="(name, m) in s.models" :key="m">{{ m }}: {{ name }}</li>
      </ul>
    </section>
  </div>
</template>

<style scoped>
.asks { display: flex; align-items: center; gap: 14px; flex-wrap: wrap; }
h2 small { color: var(--soft); font-weight: 420; margin-left: 12px; font-size: 16px; } p { margin: 0; } ul { margin: 0; padding-left: 22px; }
.choices { display: grid; grid-template-columns: repeat(auto-fill, minmax(260px, 1fr)); gap: 10px; } .choices .button { flex-direction: column; align-items: flex-start; gap: 2px; text-align: left; padding: 10px 16px; line-height: 1.2; } .choices span { font-weight: 420; font-size: 16px; } .choices .button:disabled { opacity: 1; cursor: default; } .choices .button:disabled:not(.chosen) { color: var(--soft); border-color: var(--line); }
</style>
