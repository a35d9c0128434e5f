<script setup lang="ts">
import { computed, onMounted, ref } from "vue";
import { useI18n } from "vue-i18n";
import { useRouter } from "vue-router";

import { useSession } from "../app/session";
import type { Mark } from "../parts/marks";
import CheckpointCard from "./CheckpointCard.vue";
import CheckpointReadings from "./CheckpointReadings.vue";
import DefectDrawer from "./DefectDrawer.vue";
import LookDialog from "./LookDialog.vue";
import PlanMap, { type Pin } from "./PlanMap.vue";
import RefusedList from "./RefusedList.vue";
import RestSound from "./RestSound.vue";
import SideMap from "./SideMap.vue";
import TapDialogs from "./TapDialogs.vue";
import { useLap } from "./useLap";
import { useMapView } from "./useMapView";
import { useTaps } from "./useTaps";
import { useWalk, type Checkpoint, type Finding } from "./useWalk";
import { useWalkKeys } from "./useWalkKeys";
import WalkBar from "./WalkBar.vue";
import WalkTop from "./WalkTop.vue";
import WayDialog from "./WayDialog.vue";

const props = defineProps<{ machine: string; inspection: string }>();
const { t } = useI18n();
const router = useRouter();
const session = useSession();
const cards = ref<HTMLElement | null>(null);
const w = useWalk(props.machine, props.inspection);
const lap = useLap(props.machine, props.inspection, w);
const taps = useTaps(w, lap, cards);
useWalkKeys(lap, taps, cards);
const { walk, answers, photos, opened, missing, conditions } = w;
const { here, steps, other, asked, done, at, station, stations, points, levels, untouched, way } = lap;
const { focused, drawer, target } = taps;
const lookOpen = ref(false);
const wayOpen = ref(false);
const side = ref(false);
const map = useMapView();
/** The way ahead is up: from here to the next station, or to the machine where there is none. */
function turnAhead() {
  const from = station.value?.at;
  const to = lap.next.value?.station.at ?? [0, 0];
  if (from) map.ahead(from, to);
}

const earlierAt = (id: string) => (walk.value?.carried ?? []).filter((c) => c.checkpoint === id);
const notesAt = (id: string) => w.notes.value.filter((n) => n.checkpoint === id).map((n) => n.text);
const pins = computed<Pin[]>(() => {
  const out: Pin[] = [];
  for (const c of walk.value?.checkpoints ?? []) {
    const a = answers.value.get(c.id);
    const earlier = earlierAt(c.id)[0];
    const mark: Mark | null = a ? a.mark : (earlier?.grade ?? null);
    if (mark) out.push({ checkpoint: c.id, mark, x: c.at[0], y: c.at[1], z: c.at[2], earlier: !a });
  }
  return out;
});
const spot = computed(() => {
  const c = points.value.find((p) => p.id === focused.value);
  return c ? { x: c.at[0], y: c.at[1], z: c.at[2], part: c.part } : null;
});
/** The side is shown from where one stands. */
const from = computed(() => (points.value.find((p) => p.id === focused.value) ?? points.value[0])?.side ?? "left");
const dots = computed(() => points.value.map((c) => ({ id: c.id, x: c.at[0], y: c.at[1], z: c.at[2], on: answers.value.has(c.id) })));
const findingsOf = (c: Checkpoint | null): Finding[] => {
  const a = c ? answers.value.get(c.id) : null;
  return a?.answer === "defect" ? a.findings : [];
};

onMounted(async () => {
  await w.load();
  if (w.seen.value?.status === "signed") {
    await router.replace({ name: "record", params: { inspection: props.inspection } });
    return;
  }
  await way.recall();
  // Who comes to a walk that somebody else began takes part in it.
  const me = session.person?.id ?? "";
  if (w.seen.value?.opened && !w.seen.value.joined.includes(me)) await w.add({ kind: "joined" });
  // Where the person was is the last arrival in the log; a new walk begins at the first station.
  if (!here.value && stations.value[0]) await lap.arrive(stations.value[0].id);
});
</script>

<template>
  <div v-if="walk && station" class="walk">
    <WalkTop :walk="walk" :w="w" :lap="lap" />
    <section class="plan" :aria-label="t('walk.plan')">
      <PlanMap
        v-if="!side"
        :walk="walk"
        :here="here"
        :done="done"
        :pins="pins"
        :way="steps"
        :other="other"
        :spot="spot"
        :dots="dots"
        :view="map.view"
        @go="lap.go" />
      <div v-if="!side" class="looks" role="group" :aria-label="t('walk.looks')">
        <button type="button" class="button" data-test="ahead-up" :aria-label="t('walk.aheadUp')" @click="turnAhead">
          <svg viewBox="0 0 24 24" width="26" height="26" aria-hidden="true"><path d="M12 21V4M5 11l7-7 7 7" /></svg>
        </button>
        <button type="button" class="button" data-test="nearer" :aria-label="t('walk.nearer')" @click="map.near(1.5)">+</button>
        <button type="button" class="button" data-test="farther" :aria-label="t('walk.farther')" @click="map.near(1 / 1.5)">−</button>
        <button v-if="map.moved.value" type="button" class="button" data-test="whole" @click="map.whole">{{ t("walk.whole") }}</button>
      </div>
      <SideMap v-else :walk="walk" :from="from" :pins="pins" :spot="spot" :dots="dots" />
      <nav class="levels" :aria-label="t('walk.levels')">
        <button
          v-for="l in levels"
          :key="l.level"
          type="button"
          class="level"
          :class="{ on: station.level === l.level }"
          :aria-pressed="station.level === l.level"
          @click="lap.go(l.first!.id)">
          {{ t(`level.${l.level}`) }}<span class="quiet" :title="t('walk.left', { n: l.left })"> · {{ l.left }}</span>
        </button>
        <button type="button" class="level end" :aria-pressed="side" data-test="side" @click="side = !side">
          {{ side ? t("walk.above") : t("walk.side") }}
        </button>
        <button type="button" class="level" data-test="way" @click="wayOpen = true">{{ t("way.open") }}</button>
        <button type="button" class="level" data-test="look" @click="lookOpen = true">{{ t("look.open") }}</button>
      </nav>
    </section>
    <section ref="cards" class="panel" tabindex="-1" data-test="panel" :data-station="here" :aria-label="station.name">
      <div class="station-head">
        <div>
          <p class="quiet">{{ t("walk.stationLine", { n: at + 1, stance: station.stance, s: station.look_s }) }}</p>
          <h2>{{ station.name }}</h2>
        </div>
        <button
          v-if="station.id !== stations[0]?.id"
          type="button"
          class="button cannot"
          :aria-pressed="asked.blocked.includes(here)"
          data-test="blocked"
          @click="lap.blockHere">
          {{ asked.blocked.includes(here) ? t("way.freeAgain") : t("way.cannot") }}
        </button>
      </div>
      <p v-if="asked.blocked.includes(here) && untouched(here).length" class="card row spread wrap">
        {{ t("way.stillBlocked") }}
        <button type="button" class="button" data-test="report-blocked" @click="taps.reportBlocked(here)">
          {{ t("way.report", untouched(here).length) }}
        </button>
      </p>
      <CheckpointCard
        v-for="c in points"
        :key="c.id"
        :checkpoint="c"
        :walk="walk"
        :conditions="conditions"
        :shown="answers.get(c.id) ?? null"
        :earlier="earlierAt(c.id)"
        :photos="photos.get(c.id)?.length ?? 0"
        :focused="focused === c.id"
        :notes="notesAt(c.id)"
        :show-me="walk.show_me.includes(c.id)"
        @look="focused = c.id"
        @sound="taps.sound(c)"
        @defect="taps.defect(c)"
        @unseen="taps.ask('unseen', c)"
        @take="taps.take"
        @photo="(b) => taps.photoAt(c.id, b)">
        <CheckpointReadings v-if="c.readings?.length" :checkpoint="c" :machine="machine" :w="w" :keep="taps.keepReading" />
      </CheckpointCard>
      <RestSound :key="here" :lap="lap" :w="w" @rest="taps.soundRest" />
    </section>
    <WalkBar :w="w" :lap="lap" :taps="taps" />
    <DefectDrawer
      v-model="drawer"
      :walk="walk"
      :checkpoint="target"
      :machine="machine"
      :inspection="inspection"
      :opened="opened"
      :before="findingsOf(target)"
      :photos="target ? (photos.get(target.id)?.length ?? 0) : 0"
      @save="taps.saveDefect"
      @photo="(b) => target && taps.photoAt(target.id, b)" />
    <TapDialogs :taps="taps" :lap="lap" />
    <WayDialog
      v-model="wayOpen"
      :walk="walk"
      :way="way"
      :done="done"
      :blocked-left="lap.blockedLeft.value"
      @wish="lap.wish"
      @block="lap.block"
      @report="taps.reportBlocked"
      @go="
        (id) => {
          wayOpen = false;
          void lap.go(id);
        }
      " />
    <RefusedList :walk="walk" />
    <LookDialog v-model="lookOpen" :w="w" />
  </div>
  <p v-else class="page quiet">{{ missing ? t("walk.missing") : t("wait") }}</p>
</template>

<style scoped>
.walk { display: grid; grid-template: 68px minmax(0, 1fr) 78px / minmax(0, 1fr) 566px; height: 100dvh; }
.plan { position: relative; border-right: 1px solid var(--line); padding: 8px; min-height: 0; display: flex; flex-direction: column; }
.plan svg.map { flex: 1; min-height: 0; }
.looks { position: absolute; top: 14px; left: 14px; display: flex; gap: 8px; } .looks .button { min-width: var(--target); padding: 4px; font-size: 24px; } .looks .button:last-child:nth-child(4) { font-size: 16px; padding: 4px 12px; } .looks svg { fill: none; stroke: currentColor; stroke-width: 2.6; }
.levels { display: flex; gap: 4px; }
.level { min-width: var(--target); background: none; border: 0; border-bottom: 4px solid transparent; min-height: var(--target); padding: 0 8px; font-weight: 560; cursor: pointer; font-size: 16px; white-space: nowrap; }
.level.on { border-bottom-color: var(--here); }
.level.end { margin-left: auto; }
.panel { overflow-y: auto; padding: 14px 20px 24px; display: flex; flex-direction: column; gap: 12px; scroll-padding: 12px; outline-offset: -3px; }
.station-head { display: flex; justify-content: space-between; align-items: flex-start; gap: 12px; }
.cannot { font-weight: 460; padding: 6px 12px; font-size: 16px; flex: none; }
.cannot[aria-pressed="true"] { border-color: var(--hold); color: var(--hold); font-weight: 620; }
@media (max-width: 1000px) {
  .walk { display: flex; flex-direction: column; height: auto; min-height: 100dvh; }
  /* The drawing lies below its buttons: on a small one they would cover the way. */
  .plan { border-right: 0; height: 400px; flex: none; padding: 76px 4px 4px; }
  .looks { top: 8px; left: 8px; }
  .levels { gap: 0; overflow-x: auto; }
  .level { flex: none; padding: 0 7px; font-size: 15px; } .level .quiet { display: none; }
  .panel { overflow: visible; padding: 10px 12px 100px; flex: 1; }
}
</style>
