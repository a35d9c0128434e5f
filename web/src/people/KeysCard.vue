<script setup lang="ts">
import { ElInput } from "element-plus";
import { ref } from "vue";
import { useI18n } from "vue-i18n";

import { call, type Schemas } from "../api/client";
import { canUseKeys, newKey } from "../app/keys";
import { useSession } from "../app/session";
import { dayAndTime } from "../app/times";
import { useKeys } from "../data/queries";
import PinPad from "../parts/PinPad.vue";

/** Keys of one's own beside the PIN, on a phone or a stick; a shared tablet keeps none. */
const { t } = useI18n();
const session = useSession();
const { data, refetch } = useKeys();
const adding = ref(false);
const pin = ref("");
const name = ref("");
const says = ref("");
const busy = ref(false);

async function add() {
  if (busy.value) return;
  const typed = pin.value;
  pin.value = says.value = "";
  busy.value = true;
  says.value = (await tried(typed)) ?? "";
  busy.value = false;
  if (!says.value) adding.value = false;
  await refetch();
}
/** What went wrong, or null. */
async function tried(typed: string): Promise<string | null> {
  const asked = await call("post", "/api/passkeys/options", { body: { pin: typed } });
  if (!asked.ok) return asked.problem?.detail ?? t("connection.awayLong");
  const credential = await newKey(asked.data.options);
  if (!credential) return t("keysOwn.none");
  const kept = await call("post", "/api/passkeys", {
    body: { name: name.value, credential: credential as unknown as Schemas["Credential"] },
  });
  return kept.ok ? null : (kept.problem?.detail ?? t("connection.awayLong"));
}
async function end(id: string) {
  const reply = await call("delete", "/api/passkeys/{key}", { params: { path: { key: id } } });
  says.value = reply.ok ? "" : (reply.problem?.detail ?? t("connection.awayLong"));
  await refetch();
}
</script>

<template>
  <section v-if="canUseKeys() && data" class="card stack">
    <div class="row spread wrap">
      <div class="grow">
        <h2 class="h3">{{ t("keysOwn.title") }}</h2>
        <p class="quiet">{{ t("keysOwn.says") }}</p>
      </div>
      <button v-if="!adding" type="button" class="button" data-test="add-key" @click="adding = true">{{ t("keysOwn.add") }}</button>
    </div>
    <ul v-if="data?.length" data-test="keys">
      <li v-for="k in data" :key="k.id" class="row spread wrap">
        <span
          ><b>{{ k.name }}</b> · {{ dayAndTime(k.made_at, session.zone) }}</span
        >
        <button type="button" class="button" :aria-label="t('keysOwn.endOf', { name: k.name })" @click="end(k.id)">
          {{ t("keysOwn.end") }}
        </button>
      </li>
    </ul>
    <div v-if="adding" class="stack pad">
      <label>{{ t("keysOwn.name") }}<ElInput v-model="name" maxlength="40" data-test="key-name" /></label>
      <p>{{ t("keysOwn.pin") }}</p>
      <PinPad v-model="pin" :busy="busy" :enter="t('keysOwn.go')" @enter="add" />
    </div>
    <p v-if="says" role="alert" class="says">{{ says }}</p>
  </section>
</template>

<style scoped>
ul { list-style: none; margin: 0; padding: 0; display: grid; gap: 10px; } p { margin: 0; } .grow { flex: 1; min-width: 240px; }
.pad { max-width: 420px; } .says { color: var(--hold); font-weight: 560; }
</style>
