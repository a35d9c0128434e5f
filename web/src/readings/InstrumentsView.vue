<script setup lang="ts">
import { ElOption, ElSelect, ElSwitch } from "element-plus";
import { computed, ref } from "vue";
import { useI18n } from "vue-i18n";

import { call, type Schemas } from "../api/client";
import { dayAndTime } from "../app/times";
import { useSession } from "../app/session";
import { useInstruments, useSays, useTold, useYard } from "../data/queries";
import PageState from "../parts/PageState.vue";
import { typed, type Input } from "./useReading";
import { shownUnit, toShown, usual } from "./units";
import DeviceKeys from "./DeviceKeys.vue";
import UnitsButton from "./UnitsButton.vue";

/** Devices that tell a figure: what each says, a switch off, and how a real one is attached. */
const { t } = useI18n();
const session = useSession();
const tell = useTold();
const { data: yard } = useYard();
const chosen = ref("");
const machine = computed(() => chosen.value || (yard.value?.yard.machines[0]?.machine.id ?? ""));
const { data, error } = useInstruments(machine);
const groups = computed(() =>
  (["ofSite", "ofMachine"] as const).map((of) => ({
    of,
    devices: (data.value ?? []).filter((d) => (d.machine !== "") === (of === "ofMachine")),
  })),
);
const says = useSays(error);
const wrong = ref<Record<string, string>>({});
type Device = Schemas["InstrumentOut"];

async function set(d: Device, change: { on?: boolean; key?: string; text?: string }) {
  const next = { ...d.says };
  if (change.key !== undefined) {
    const one = d.figures.find((f) => f.key === change.key)!;
    const value = typed(change.text ?? "", { us: one.us } as Input);
    if (typeof value === "number") next[change.key] = value;
    else if (value === undefined) delete next[change.key];
    else return void (wrong.value = { ...wrong.value, [d.key]: t("instrument.plain") });
  }
  const reply = await call("put", "/api/instruments/{instrument}", {
    params: { path: { instrument: d.key } },
    body: { on: change.on ?? d.on, machine: d.machine, says: next },
  });
  wrong.value = { ...wrong.value, [d.key]: reply.ok ? "" : (reply.problem?.detail ?? t("connection.awayLong")) };
  await tell.instruments();
}
const refused = ref("");
async function setUsual(units: "metric" | "us") {
  const reply = await call("put", "/api/units", { body: { units } });
  refused.value = reply.ok ? "" : (reply.problem?.detail ?? t("connection.awayLong"));
  if (reply.ok) usual.value = units;
}
</script>

<template>
  <div class="page stack">
    <div class="row spread wrap">
      <h1>{{ t("instrument.title") }}</h1>
      <UnitsButton />
    </div>
    <p class="quiet">{{ t("instrument.intro") }}</p>
    <PageState :says="says" :waits="!data" />
    <section v-for="g in groups" :key="g.of" class="stack">
      <div class="row wrap">
        <h2>{{ t(`instrument.${g.of}`) }}</h2>
        <ElSelect
          v-if="g.of === 'ofMachine'"
          :model-value="machine"
          filterable
          class="of"
          :aria-label="t('instrument.machine')"
          data-test="instruments-of"
          @update:model-value="(v: string) => (chosen = v)"
          ><ElOption v-for="m in yard?.yard.machines ?? []" :key="m.machine.id" :value="m.machine.id" :label="m.machine.name"
        /></ElSelect>
      </div>
      <p v-if="data && !g.devices.some((d) => d.settable)" class="quiet">{{ t("instrument.realOnly") }}</p>
      <div class="devices">
        <section v-for="d in g.devices" :key="d.key" class="card stack" :data-test="`device-${d.key}`">
          <div class="row spread">
            <h3>{{ d.title }}</h3>
            <ElSwitch
              :disabled="!d.settable"
              :model-value="d.on"
              :aria-label="t('instrument.on', { name: d.title })"
              :data-test="`on-${d.key}`"
              @update:model-value="(v) => set(d, { on: Boolean(v) })" />
          </div>
          <label v-for="f in d.figures" :key="f.key" class="figure"
            ><span>{{ f.name }}</span>
            <span class="row"
              ><input
                :value="f.key in d.says ? Number(toShown(d.says[f.key]!, f.us).toPrecision(5)) : ''"
                inputmode="decimal"
                :readonly="!d.settable"
                :data-test="`says-${d.key}-${f.key}`"
                @change="(e) => set(d, { key: f.key, text: (e.target as HTMLInputElement).value })" />
              {{ shownUnit(f.unit, f.us) }}</span
            ></label
          >
          <p v-if="wrong[d.key]" role="alert">{{ wrong[d.key] }}</p>
          <p class="quiet">
            {{
              !d.on
                ? t("instrument.off")
                : !d.at
                  ? ""
                  : Object.keys(d.now).length
                    ? t(d.simulated ? "instrument.setBy" : d.by === "device" ? "instrument.real" : "instrument.fact", {
                        at: dayAndTime(d.at, session.zone),
                        by: d.by,
                      })
                    : t("instrument.old", { at: dayAndTime(d.at, session.zone) })
            }}
          </p>
        </section>
      </div>
    </section>
    <p class="quiet">{{ t("instrument.attach") }}</p>
    <DeviceKeys v-if="session.may('manage')" :instruments="data ?? []" />
    <div v-if="session.may('edit-machines')" class="row wrap" role="group" :aria-label="t('reading.usualUnits')">
      <span>{{ t("reading.usualUnits") }}</span>
      <button
        v-for="u in ['metric', 'us'] as const"
        :key="u"
        type="button"
        class="button"
        :class="{ chosen: usual === u }"
        :aria-pressed="usual === u"
        :data-test="`usual-${u}`"
        @click="setUsual(u)">
        {{ t(`reading.unit.${u}`) }}</button><span role="alert">{{ refused }}</span>
    </div>
  </div>
</template>

<style scoped>
.devices { display: grid; grid-template-columns: repeat(auto-fill, minmax(min(330px, 100%), 1fr)); gap: 18px; align-items: start; }
.of { width: 240px; }
.figure { display: flex; justify-content: space-between; align-items: center; gap: 12px; flex-wrap: wrap; }
input { min-height: 56px; width: 120px; font: inherit; padding: 0 12px; border: 1.5px solid var(--ink); border-radius: 10px; background: var(--card); color: var(--ink); }
</style>
