<script setup lang="ts">
import { ElInput } from "element-plus";
import { computed, ref } from "vue";
import { useI18n } from "vue-i18n";

import { call, type Schemas } from "../api/client";
import { useSession } from "../app/session";
import { dayAndTime } from "../app/times";
import { useDeviceKeys, useSays, useYard } from "../data/queries";

/** Devices that tell without a person: of what, since when, by whose hand; a new one, a new key, an end. */
defineProps<{ instruments: Schemas["InstrumentOut"][] }>();
const { t } = useI18n();
const session = useSession();
const { data, error, refetch } = useDeviceKeys();
const { data: yard } = useYard();
const says = useSays(error);
const machines = computed(() => yard.value?.yard.machines.map((m) => m.machine) ?? []);
const name = ref("");
const of = ref<string[]>([]);
const forThese = ref<string[]>([]);
const refused = ref("");
const told = ref<Schemas["DeviceKeyOut"] | null>(null);

async function give(device: string, tellsOf: string[], tellsFor: string[]) {
  const reply = await call("put", "/api/devices/{device}", {
    params: { path: { device } },
    body: { machines: tellsOf, instruments: tellsFor },
  });
  refused.value = reply.ok ? "" : (reply.problem?.detail ?? t("connection.awayLong"));
  told.value = reply.ok ? reply.data : null;
  if (reply.ok) [name.value, of.value, forThese.value] = ["", [], []];
  await refetch();
}
async function end(device: string) {
  const reply = await call("delete", "/api/devices/{device}", { params: { path: { device } } });
  refused.value = reply.ok ? "" : (reply.problem?.detail ?? t("connection.awayLong"));
  await refetch();
}
const machineName = (id: string) => machines.value.find((m) => m.id === id)?.name ?? id;
</script>

<template>
  <section class="card stack" :aria-label="t('deviceKeys.title')" data-test="device-keys">
    <h2 class="h3">{{ t("deviceKeys.title") }}</h2>
    <p class="quiet">{{ t("deviceKeys.intro") }}</p>
    <p v-if="says || refused" role="alert">{{ says || refused }}</p>
    <div v-if="told" class="said" role="status" data-test="device-key">
      <span>{{ t("deviceKeys.said", { name: told.id }) }}</span><code>{{ told.key }}</code>
    </div>
    <p v-if="data && !data.length" class="quiet">{{ t("deviceKeys.none") }}</p>
    <ul v-if="data?.length" class="list">
      <li v-for="d in data" :key="d.id" class="row spread wrap" :data-test="`key-of-${d.id}`">
        <span class="stack tight"
          ><b>{{ d.id }}</b
          ><span>{{
            [...d.machines.map(machineName), ...d.instruments.map((k) => instruments.find((i) => i.key === k)?.title ?? k)].join(", ")
          }}</span>
          <span class="quiet">{{
            d.ended_at
              ? t("deviceKeys.ended", { at: dayAndTime(d.ended_at, session.zone) })
              : t("deviceKeys.since", { at: dayAndTime(d.made_at, session.zone), by: d.made_by })
          }}</span></span
        >
        <span class="row"
          ><button type="button" class="button" @click="give(d.id, d.machines, d.instruments)">{{ t("deviceKeys.anew") }}</button
          ><button v-if="!d.ended_at" type="button" class="button" :data-test="`end-${d.id}`" @click="end(d.id)">
            {{ t("deviceKeys.end") }}
          </button></span
        >
      </li>
    </ul>
    <form class="stack" @submit.prevent="give(name.trim(), of, forThese)">
      <label class="stack tight"
        ><span>{{ t("deviceKeys.name") }}</span
        ><ElInput v-model="name" class="named" maxlength="60" autocapitalize="off" data-test="device-name"
      /></label>
      <fieldset>
        <legend>{{ t("deviceKeys.machines") }}</legend>
        <label v-for="m in machines" :key="m.id" class="pick"
          ><input v-model="of" type="checkbox" :value="m.id" :data-test="`tells-${m.id}`" /> {{ m.name }}</label
        >
      </fieldset>
      <fieldset>
        <legend>{{ t("deviceKeys.instruments") }}</legend>
        <label v-for="i in instruments" :key="i.key" class="pick"
          ><input v-model="forThese" type="checkbox" :value="i.key" /> {{ i.title }}</label
        >
      </fieldset>
      <button type="submit" class="button" :disabled="!name.trim() || !(of.length + forThese.length)" data-test="give-key">
        {{ t("deviceKeys.give") }}
      </button>
    </form>
  </section>
</template>

<style scoped>
.said { display: flex; flex-direction: column; gap: 6px; border-left: 5px solid var(--here); padding-left: 12px; } code { font-size: 18px; overflow-wrap: anywhere; user-select: all; }
.list { list-style: none; margin: 0; padding: 0; display: flex; flex-direction: column; gap: 14px; } .tight { gap: 2px; }
fieldset { border: 0; margin: 0; padding: 0; display: flex; flex-wrap: wrap; gap: 8px 18px; } legend { margin-bottom: 6px; }
.pick { display: inline-flex; align-items: center; gap: 8px; min-height: 44px; } .pick input { width: 24px; height: 24px; } .named { max-width: 340px; } form > button { align-self: flex-start; }
</style>
