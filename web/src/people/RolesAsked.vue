<script setup lang="ts">
import { computed, nextTick, ref } from "vue";
import { useI18n } from "vue-i18n";

import { call, type Schemas } from "../api/client";
import { useSession } from "../app/session";
import { dayAndTime } from "../app/times";
import { usePeople, useTold } from "../data/queries";
import PinPad from "../parts/PinPad.vue";

/** Roles by which machines are cleared, that another administrator has to confirm. */
const { t } = useI18n();
const session = useSession();
const { data } = usePeople();
const told = useTold();
const waits = computed(() => (data.value ?? []).filter((p) => p.asked));
const giving = ref<Schemas["StaffOut"] | null>(null);
const keys = ref<InstanceType<typeof PinPad>[]>([]);
const box = ref<HTMLElement[]>([]);
const pin = ref("");
const says = ref("");
const busy = ref(false);

function begin(p: Schemas["StaffOut"]) {
  giving.value = p;
  pin.value = says.value = "";
  void nextTick(() => box.value[0]?.focus());
}
async function confirm() {
  if (!giving.value?.asked || busy.value) return;
  const body = { role: giving.value.asked.role, pin: pin.value };
  pin.value = says.value = "";
  busy.value = true;
  const reply = await call("post", "/api/people/{person}/role", { params: { path: { person: giving.value.id } }, body });
  busy.value = false;
  if (!reply.ok) says.value = reply.problem?.detail ?? t("connection.awayLong");
  else giving.value = null;
  await told.people();
}
async function drop(p: Schemas["StaffOut"]) {
  says.value = "";
  const reply = await call("delete", "/api/people/{person}/role", { params: { path: { person: p.id } } });
  if (!reply.ok) says.value = reply.problem?.detail ?? t("connection.awayLong");
  await told.people();
}
</script>

<template>
  <section v-if="waits.length" class="stack" data-test="roles-asked">
    <h2>{{ t("people.asked") }}</h2>
    <p class="quiet">{{ t("people.askedSays") }}</p>
    <ul>
      <li v-for="p in waits" :key="p.id" class="card stack">
        <div class="row spread wrap">
          <span
            ><b>{{ t("people.toBe", { name: p.name, role: t(`role.${p.asked!.role}`) }) }}</b
            ><br /><span class="quiet">{{
              t("people.askedBy", { name: p.asked!.by, at: dayAndTime(p.asked!.at, session.zone) })
            }}</span></span
          >
          <span class="row">
            <button
              v-if="p.asked!.may_confirm && giving?.id !== p.id"
              type="button"
              class="button primary"
              data-test="confirm-role"
              @click="begin(p)">
              {{ t("people.confirm") }}
            </button>
            <button type="button" class="button" data-test="drop-role" @click="drop(p)">
              {{ p.asked!.may_confirm ? t("people.refuse") : t("people.withdraw") }}
            </button>
          </span>
        </div>
        <div v-if="giving?.id === p.id" ref="box" class="stack pad" tabindex="-1" @keydown="keys[0]?.key($event)">
          <p>{{ t("pinAgain.says", { name: session.person?.name ?? "" }) }}</p>
          <PinPad ref="keys" v-model="pin" :busy="busy" :enter="t('people.confirm')" @enter="confirm" />
        </div>
      </li>
    </ul>
    <p v-if="says" role="alert" class="says">{{ says }}</p>
  </section>
</template>

<style scoped>
ul { list-style: none; padding: 0; margin: 0; display: grid; gap: 12px; } p { margin: 0; }
.says { color: var(--hold); font-weight: 560; } .pad { max-width: 420px; outline: none; }
</style>
