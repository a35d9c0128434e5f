<script setup lang="ts">
import { ElInput, ElSwitch } from "element-plus";
import { useDebounceFn, useTimeoutFn } from "@vueuse/core";
import { computed, onMounted, reactive, ref, watch } from "vue";
import { useI18n } from "vue-i18n";
import { useRoute, useRouter } from "vue-router";

import type { Schemas } from "../api/client";
import { latest, planWalk } from "../core/rulebook";
import { useSession } from "../app/session";
import { day } from "../app/times";
import GradeMark from "../parts/GradeMark.vue";
import PageState from "../parts/PageState.vue";
import { newEntry, plain, store, uuid7 } from "../parts/device";
import ShiftNeeds from "../readings/ShiftNeeds.vue";
import MeterWrong from "./MeterWrong.vue";
import StandsNow from "./StandsNow.vue";
import { useNext } from "../yard/useNext";
import { useOutbox } from "../parts/outbox";
import { figure } from "../app/language";
import NumberField from "../parts/NumberField.vue";

const props = defineProps<{ machine: string }>();
const { t } = useI18n();
/** Where it may be started already, that comes first. */
const { next } = useNext(computed(() => props.machine));
const router = useRouter();
const session = useSession();
const outbox = useOutbox();
const inspection = uuid7();
const walk = ref<Schemas["WalkOut"] | null>(null);
const says = ref("");
const busy = ref(false);
const leaving = ref(false);
const why = ref("");
const wrong = ref(false);
/** A link may ask for another kind: the once-over after a stop. */
const asked = useRoute().query.kind;
const purpose = ref(typeof asked === "string" && asked ? asked : "pre-start");
const meter = ref(0);
type Flag = "dark" | "rain" | "people_on_foot" | "moved" | "serviced" | "transported" | "frost";
const form = reactive({
  air_c: 10,
  pitch_deg: 0,
  roll_deg: 0,
  shift_hours: 10,
  dark: false,
  rain: false,
  people_on_foot: true,
  moved: false,
  serviced: false,
  transported: false,
  frost: false,
  gap_left: null as number | null,
  gap_right: null as number | null,
  gap_rear: null as number | null,
  gap_front: null as number | null,
});
const sides = ["left", "right", "rear", "front"] as const;
const last = computed(() => (walk.value ? walk.value.machine.hour_meter - walk.value.machine.meter_offset : 0));
const meterLow = computed(() => walk.value !== null && meter.value < last.value - 0.05);
const meterHigh = computed(() => walk.value !== null && meter.value > last.value + 200);
const kind = computed(() => walk.value?.kinds.find((k) => k.id === purpose.value) ?? null);
/** Changes that answers made, one line for each reason. */
const because = computed(() => {
  const groups = new Map<string, { change: string; says: string; names: string[] }>();
  for (const b of walk.value?.because ?? []) {
    const key = b.change + b.says;
    groups.set(key, { change: b.change, says: b.says, names: [...(groups.get(key)?.names ?? []), b.name] });
  }
  return [...groups.values()];
});

const plan = latest((signal, body: Schemas["OccasionIn"]) => planWalk({ machine: props.machine }, body, signal));
/** So long until it is asked again where the server had no time or no answer [ms]: nobody stands before a page that waits for good. */
const AGAIN_MS = 5_000;
const { start: lookAgain } = useTimeoutFn(() => void look(), AGAIN_MS, { immediate: false });
async function look() {
  const body = { purpose: purpose.value, conditions: plain(form), inspection };
  const reply = await plan(body);
  if (reply === null) return;
  if (!reply.ok) {
    says.value = reply.problem?.detail ?? t("connection.awayLong");
    if (reply.away) lookAgain();
    return;
  }
  says.value = "";
  const first = walk.value === null;
  walk.value = reply.data;
  if (first) {
    meter.value = Number(last.value.toFixed(1));
    form.shift_hours = reply.data.shift_hours;
  }
  await store.kept.put({ key: `walk/${inspection}`, value: reply.data });
}
onMounted(look);
watch(
  [purpose, form],
  useDebounceFn(() => void look(), 250),
  { deep: true },
);

/** How far this device knows the machine's log; a walk kept by an earlier release says nothing of it. */
const known = computed(() => {
  const log = walk.value?.log as Schemas["LogEndOut"] | undefined;
  return { knew: log?.seq ?? 0, head: log?.head ?? "" };
});

/** Keep the first entry on the device, send it, and go on to the walk. */
async function begin() {
  if (!walk.value || meterLow.value || busy.value) return;
  busy.value = true;
  await look();
  const what = {
    kind: "opened" as const,
    hour_meter: meter.value,
    conditions: { ...form },
    options: walk.value.options,
    purpose: purpose.value,
    ...known.value,
  };
  if (await outbox.post(newEntry(props.machine, inspection, session.person!.id, what))) {
    await outbox.flush();
    await router.replace({ name: "walk", params: { machine: props.machine, inspection } });
  } else says.value = t("walk.deviceFullText");
  busy.value = false;
}
/** Nobody goes on with the walk that is open: it ends with a reason, and what it found stays. */
async function abandon() {
  const open = walk.value?.open_inspection;
  if (!open || why.value.trim().length < 3) return;
  const entry = newEntry(props.machine, open, session.person!.id, { kind: "abandoned", reason: why.value.trim() });
  if (!(await outbox.post(entry))) return;
  await outbox.flush(true);
  leaving.value = false;
  await look();
}
const stands = (side: (typeof sides)[number], on: boolean) => (form[`gap_${side}`] = on ? 1.5 : null);
</script>

<template>
  <div class="page">
    <div class="row spread wrap">
      <h1>{{ walk ? t("approach.title", { name: walk.machine.name }) : t("wait") }}</h1>
      <RouterLink class="button plain" :to="{ name: 'where', params: { machine } }">{{ t("where.link") }}</RouterLink>
    </div>
    <PageState v-if="!walk && !says" waits :lines="5" />
    <p class="says" role="alert">{{ says }}</p>
    <StandsNow v-if="walk && !walk.open_inspection" :machine="machine" />
    <section v-if="walk?.open_inspection" class="card stack under" data-test="under-way">
      <div class="row spread wrap">
        <span>{{
          walk.open_by === session.person?.name ? t("approach.underWayMine") : t("approach.underWay", { name: walk.open_by })
        }}</span>
        <span class="row wrap"
          ><button type="button" class="button" data-test="leave" :aria-expanded="leaving" @click="leaving = !leaving">
            {{ t("approach.abandon") }}
          </button>
          <RouterLink
            class="button primary"
            data-test="join"
            :to="{ name: 'walk', params: { machine, inspection: walk.open_inspection } }"
            >{{ t(walk.open_by === session.person?.name ? "approach.goOn" : "approach.join") }}</RouterLink
          ></span
        >
      </div>
      <form v-if="leaving" class="row wrap" @submit.prevent="abandon">
        <ElInput
          v-model="why"
          class="why"
          maxlength="1000"
          :placeholder="t('approach.abandonWhy')"
          :aria-label="t('approach.abandonWhy')"
          data-test="leave-why" />
        <button type="submit" class="button" :disabled="why.trim().length < 3" data-test="leave-now">{{ t("approach.abandonNow") }}</button>
      </form>
    </section>
    <form v-if="walk" novalidate @submit.prevent="begin">
      <div class="chips kinds" role="group" :aria-label="t('approach.kind')">
        <button
          v-for="k in walk.kinds"
          :key="k.id"
          type="button"
          class="button"
          :class="{ chosen: purpose === k.id }"
          :aria-pressed="purpose === k.id"
          :data-test="`kind-${k.id}`"
          @click="purpose = k.id">
          {{ k.name }}
        </button>
      </div>
      <p class="quiet">{{ kind?.says }} {{ kind && !kind.clears ? t("approach.clearsNot") : "" }}</p>
      <p v-if="walk.clears_not && kind?.id === walk.kind?.id" class="card not" role="alert" data-test="clears-not">{{ walk.clears_not }}</p>
      <div class="grid">
        <section class="card stack">
          <label class="field"
            ><span
              >{{ t("approach.hour_meter")
              }}<small :class="{ bad: meterLow }">{{
                meterLow
                  ? t("approach.meterLow", { h: figure(last, 1) })
                  : meterHigh
                    ? t("approach.meterHigh")
                    : t("approach.meterLast", { h: figure(last, 1) })
              }}</small
              ><button v-if="meterLow" type="button" class="button wrong" data-test="meter-wrong" @click.prevent="wrong = true">
                {{ t("approach.meterWrong") }}
              </button></span
            >
            <NumberField
              v-model="meter"
              :precision="1"
              :step="1"
              :min="0"
              :max="200000"
              :aria-label="t('approach.hour_meter')"
              data-test="hour-meter"
          /></label>
          <label class="field"
            ><span>{{ t("approach.air") }}</span
            ><NumberField v-model="form.air_c" :step="1" :min="-60" :max="60" :aria-label="t('approach.air')" data-test="air"
          /></label>
          <label class="field"
            ><span
              >{{ t("approach.pitch") }}<small>{{ t("approach.pitchHelp") }}</small></span
            ><NumberField
              v-model="form.pitch_deg"
              :step="0.5"
              :min="-45"
              :max="45"
              :aria-label="t('approach.pitch')"
              data-test="pitch-approach"
          /></label>
          <label class="field"
            ><span
              >{{ t("approach.roll") }}<small>{{ t("approach.rollHelp") }}</small></span
            ><NumberField v-model="form.roll_deg" :step="0.5" :min="-45" :max="45" :aria-label="t('approach.roll')"
          /></label>
          <label class="field"
            ><span>{{ t("approach.shift") }}</span
            ><NumberField v-model="form.shift_hours" :step="1" :min="1" :max="24" :aria-label="t('approach.shift')"
          /></label>
        </section>
        <section class="card">
          <label v-for="q in walk.questions.filter((x) => !x.computed)" :key="q.id" class="field"
            ><span>{{ q.asks }}</span
            ><ElSwitch v-model="form[q.id as Flag]" :aria-label="q.asks" :data-test="`q-${q.id}`"
          /></label>
          <fieldset>
            <legend>{{ t("approach.beside") }}</legend>
            <div v-for="s in sides" :key="s" class="field">
              <span>{{ t(`approach.${s}`) }}</span>
              <span class="row"
                ><NumberField
                  v-if="form[`gap_${s}`] !== null"
                  v-model="form[`gap_${s}`]!"
                  class="gap"
                  :step="0.1"
                  :precision="1"
                  :min="0"
                  :max="30"
                  :aria-label="t('approach.gap', { side: t(`approach.${s}`) })" />
                <ElSwitch
                  :model-value="form[`gap_${s}`] !== null"
                  :aria-label="t(`approach.${s}`)"
                  :data-test="`beside-${s}`"
                  @update:model-value="(v) => stands(s, Boolean(v))"
              /></span>
            </div>
          </fieldset>
        </section>
        <section class="stack">
          <button
            class="button begin"
            :class="{ primary: next !== 'start' }"
            type="submit"
            :disabled="meterLow || busy || Boolean(walk.open_inspection)"
            data-test="begin">
            {{ t("approach.begin", { n: walk.checkpoints.length, min: Math.round(walk.planned_s / 60) }) }}
          </button>
          <p v-if="walk.open_inspection" class="quiet">{{ t("approach.joinFirst") }}</p>
          <p class="quiet">{{ t("approach.walking", { s: Math.round(walk.moving_s), n: walk.stations.length }) }}</p>
          <div v-if="walk.unreached.length" class="card stack bad-card">
            <h2 class="h3">{{ t("approach.unreached") }}</h2>
            <p v-for="u in walk.unreached" :key="u.station">{{ u.says }}</p>
          </div>
          <div v-if="because.length" class="card stack" data-test="because">
            <h2 class="h3">{{ t("approach.because") }}</h2>
            <p v-for="b in because" :key="b.change + b.says" class="because">
              <b :class="b.change">{{ t(`approach.${b.change}`) }}</b> {{ b.names.join(", ") }}.<small>{{ b.says }}</small>
            </p>
          </div>
          <div class="card stack">
            <h2 class="h3">{{ t("approach.open", walk.carried.length) }}</h2>
            <p v-for="c in walk.carried" :key="c.id" class="row open">
              <GradeMark :mark="c.grade" :size="32" />
              <span
                >{{ walk.checkpoints.find((x) => x.id === c.checkpoint)?.name ?? c.checkpoint
                }}<small>{{ t("approach.since", { at: day(c.since, session.zone), name: walk.people[c.by] }) }} {{ c.finding.note }}</small
                ><small v-for="l in c.limits" :key="l">{{ l }}</small></span
              >
            </p>
          </div>
          <p class="quiet">{{ t("caution") }}</p>
        </section>
      </div>
    </form>
    <ShiftNeeds v-if="walk" :machine="machine" :hours="form.shift_hours" class="needs" />
    <MeterWrong
      v-if="walk?.last_reading"
      v-model="wrong"
      :machine="machine"
      :reading="walk.last_reading"
      :by="walk.people[walk.last_reading.by] ?? ''"
      @corrected="look()" />
  </div>
</template>

<style scoped>
.grid { display: grid; grid-template-columns: 1.05fr 1fr 1fr; gap: 20px; margin-top: 14px; align-items: start; }
.kinds { margin-bottom: 8px; } .not { border: 2px solid var(--hold); font-weight: 620; margin: 0 0 12px; }
.field { display: flex; justify-content: space-between; align-items: center; gap: 14px; font-weight: 560; min-height: 58px; }
small { display: block; font-size: 15px; color: var(--soft); font-weight: 420; }
small.bad { color: var(--hold); font-weight: 620; }
fieldset { border: 0; border-top: 1px solid var(--line); margin: 8px 0 0; padding: 8px 0 0; }
legend { font-weight: 640; padding: 0 8px 0 0; }
.field > span:first-child { flex: 1; }
.field :deep(.el-input-number) { width: 184px; flex: none; }
.field :deep(.gap) { width: 140px; }
.open { align-items: flex-start; }
.because b { color: var(--deep); } .because b.removed { color: var(--soft); } .because b.must { color: var(--here); }
.bad-card { border: 2px solid var(--hold); }
.says { color: var(--hold); }
.begin { min-height: 64px; }
@media (max-width: 1150px) { .grid { grid-template-columns: 1fr 1fr; } }
@media (max-width: 800px) { .grid { grid-template-columns: 1fr; } .field { flex-wrap: wrap; } .begin { width: 100%; } }
/* On a phone what is done next stays under the thumb, however long the questions are. */
@media (max-width: 700px) { .begin { position: fixed; left: 12px; bottom: 14px; width: calc(100% - 24px) !important; z-index: 20; box-shadow: 0 0 0 14px var(--paper); } .page { padding-bottom: 110px; } }
.needs { margin-top: 20px; }
.under { margin-bottom: 14px; }
.why { flex: 1; min-width: 260px; }
.wrong { margin-top: 6px; font-weight: 460; padding: 6px 12px; }
</style>
