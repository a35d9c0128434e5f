<script setup lang="ts">
import { ElDialog, ElInput, ElNotification } from "element-plus";
import { useIntervalFn } from "@vueuse/core";
import { computed, nextTick, onBeforeUnmount, onMounted, ref, watch } from "vue";
import { useI18n } from "vue-i18n";
import { useRouter } from "vue-router";

import ConnectionState from "../app/ConnectionState.vue";
import { useSession } from "../app/session";
import { stopwatch } from "../app/times";
import type { Mark } from "../parts/marks";
import { useOutbox } from "../parts/outbox";
import CheckpointCard from "./CheckpointCard.vue";
import DefectDrawer from "./DefectDrawer.vue";
import PlanMap, { type Pin } from "./PlanMap.vue";
import SideMap from "./SideMap.vue";
import WayDialog from "./WayDialog.vue";
import LookDialog from "./LookDialog.vue";
import { useWalk, type AnswerWhat, type Checkpoint, type Clear, type Finding } from "./useWalk";
import { useWay, type Asked } from "./useWay";

const props = defineProps<{ machine: string; inspection: string }>();
const { t } = useI18n();
const router = useRouter();
const outbox = useOutbox();
const w = useWalk(props.machine, props.inspection);
const { walk, answers, photos, opened, openedAt, missing, conditions } = w;
const session = useSession();

const focused = ref("");
const drawer = ref(false);
const target = ref<Checkpoint | null>(null);
const dialog = ref<"unseen" | "note" | "sound" | "undo" | "cannot" | null>(null);
const needed = ref<Clear>("free");
const lookOpen = ref(false);
const text = ref("");
const cards = ref<HTMLElement | null>(null);
const passed = ref(0);
const side = ref(false);
const wayOpen = ref(false);
/** A station that the rules of order say is not to be visited yet. */
const early = ref<{ id: string; says: string[] } | null>(null);

const stations = computed(() => walk.value?.stations ?? []);
const leftAt = (id: string) => (walk.value?.checkpoints ?? []).filter((c) => c.station === id && c.mandatory && !answers.value.has(c.id)).length;
const untouched = (id: string) => (walk.value?.checkpoints ?? []).filter((c) => c.station === id && !answers.value.has(c.id));
/** A station with nothing mandatory is done once it was visited. */
const done = computed(() => new Set(stations.value.filter((s) => leftAt(s.id) === 0 && (untouched(s.id).length === 0 || w.visits.value.includes(s.id))).map((s) => s.id)));
const way = useWay(props.machine, props.inspection, walk, opened, w.visits, done);
const { here, steps, next, other, asked } = way;
const at = computed(() => steps.value.findIndex((s) => s.station.id === here.value));
const station = computed(() => steps.value[at.value]?.station ?? null);
const points = computed(() => (walk.value?.checkpoints ?? []).filter((c) => c.station === here.value));
const hourMeter = computed(() => opened.value?.hour_meter ?? 0);
const earlierAt = (id: string) => (walk.value?.carried ?? []).filter((c) => c.checkpoint === id);
const notesAt = (id: string) => w.notes.value.filter((n) => n.checkpoint === id).map((n) => n.text);
const planned = computed(() => walk.value?.planned_s ?? 0);
const levels = computed(() =>
  (["ground", "under", "deck", "cab"] as const)
    .map((level) => {
      const ids = steps.value.map((s) => s.station).filter((s) => s.level === level);
      return { level, left: ids.reduce((n, s) => n + leftAt(s.id), 0), first: ids.find((s) => leftAt(s.id) > 0) ?? ids[0] };
    })
    .filter((l) => l.first),
);
const blockedLeft = computed(() => steps.value.filter((s) => asked.value.blocked.includes(s.station.id) && untouched(s.station.id).length > 0));

const pins = computed<Pin[]>(() => {
  const out: Pin[] = [];
  for (const c of walk.value?.checkpoints ?? []) {
    const a = answers.value.get(c.id);
    const earlier = earlierAt(c.id)[0];
    const mark: Mark | null = a ? a.mark : earlier ? (earlier.grade as Mark) : null;
    if (mark) out.push({ checkpoint: c.id, mark, x: c.at[0], y: c.at[1], z: c.at[2], earlier: !a });
  }
  return out;
});
const spot = computed(() => {
  const c = points.value.find((p) => p.id === focused.value);
  return c ? { x: c.at[0], y: c.at[1], z: c.at[2] } : null;
});
const dots = computed(() => points.value.map((c) => ({ id: c.id, x: c.at[0], y: c.at[1], z: c.at[2], on: answers.value.has(c.id) })));

onMounted(async () => {
  window.addEventListener("keydown", key);
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
  if (!here.value && stations.value[0]) await arrive(stations.value[0].id);
});
onBeforeUnmount(() => window.removeEventListener("keydown", key));
useIntervalFn(() => (passed.value = openedAt.value ? (Date.now() - new Date(openedAt.value).getTime()) / 1000 : 0), 1000, { immediateCallback: true });
watch(here, async () => {
  await nextTick();
  cards.value?.scrollTo({ top: 0 });
  focused.value = points.value.find((c) => !answers.value.has(c.id))?.id ?? points.value[0]?.id ?? "";
}, { immediate: true });

async function arrive(id: string) {
  const from = here.value;
  const asPlanned = next.value?.station.id === id;
  // The line and the tap first: both are known without the network.
  const line = from ? way.walkTo(from, id) : null;
  await w.add({ kind: "arrived", station: id });
  await line;
  // Off the plan, or with something left behind: the way on is asked for anew.
  if (from && (!asPlanned || !done.value.has(from))) await way.replan(id);
}
async function go(id: string) {
  if (id === here.value) return;
  const broken = way.broken(id);
  if (broken.length && !done.value.has(id)) early.value = { id, says: broken.map((r) => r.says) };
  else await arrive(id);
}
async function goAnyway() {
  const id = early.value!.id;
  early.value = null;
  await arrive(id);
}
async function onward() {
  if (next.value) await go(next.value.station.id);
  else await router.push({ name: "verdict", params: { machine: props.machine, inspection: props.inspection } });
}
async function wish(change: Partial<Asked>) {
  Object.assign(asked.value, change);
  await way.keep();
  await way.replan(here.value);
}
/** Not to be reached now: it is left to the end, and the way on is planned anew. */
async function block(id: string) {
  const now = asked.value.blocked;
  asked.value.blocked = now.includes(id) ? now.filter((b) => b !== id) : [...now, id];
  await way.keep();
  await way.replan(here.value);
}
async function blockHere() {
  const id = here.value;
  const blocking = !asked.value.blocked.includes(id);
  await block(id);
  if (blocking && next.value && next.value.station.id !== id) await arrive(next.value.station.id);
}
/** What stayed blocked is reported as not seen, each checkpoint by itself. */
async function reportBlocked(id: string, why: string) {
  for (const c of untouched(id)) {
    await answer(c, "unseen", [], why);
  }
}
/** What was refused, in words: the checkpoint or what else it was. */
function refusedWhat(r: (typeof outbox.refused)[number]): string {
  if (!("what" in r)) return t("walk.photo");
  const id = "checkpoint" in r.what ? r.what.checkpoint : "";
  return walk.value?.checkpoints.find((c) => c.id === id)?.name ?? t(`entry.${r.what.kind}`);
}
function moveOn(id: string) {
  const i = points.value.findIndex((c) => c.id === id);
  const after = points.value.slice(i + 1).find((c) => !answers.value.has(c.id));
  if (after) focus(after.id);
}
function focus(id: string) {
  focused.value = id;
  cards.value?.querySelector(`[data-test="cp-${id}"]`)?.scrollIntoView({ block: "nearest", behavior: "smooth" });
}
/** A write that the device would not take is said at once. */
async function tell(kept: Promise<string | null>): Promise<boolean> {
  const done = (await kept) !== null;
  if (!done) ElNotification({ title: t("walk.deviceFull"), message: t("walk.deviceFullText"), type: "error", duration: 0, position: "bottom-left" });
  return done;
}
const answer = (c: Checkpoint, word: "sound" | "defect" | "unseen", findings: Finding[] = [], reason = "") =>
  tell(w.add({ kind: "answered", checkpoint: c.id, answer: word, findings, reason, amends: "" }));
async function sound(c: Checkpoint) {
  const now = answers.value.get(c.id);
  if (now?.answer === "sound" && !now.differ) return moveOn(c.id);
  if (now && now.clear !== "free" && now.clear !== "second") {
    needed.value = now.clear;
    return ask(now.clear === "reason" ? "sound" : "cannot", c);
  }
  moveOn(c.id); // first, so that the next quick tap means the next one
  await answer(c, "sound");
}
function defect(c: Checkpoint) {
  target.value = c;
  focused.value = c.id;
  drawer.value = true;
}
async function saveDefect(findings: Finding[], why: string) {
  const c = target.value!;
  if (!(await answer(c, "defect", findings, why))) return; // the drawer stays open with what was chosen
  drawer.value = false;
  moveOn(c.id);
}
function ask(what: NonNullable<typeof dialog.value>, c: Checkpoint | null) {
  target.value = c;
  text.value = "";
  dialog.value = what;
}
const photoAt = (id: string, blob: Blob) => tell(w.addPhoto(id, blob).then((ok) => (ok ? id : null)));
async function photoHere(e: Event) {
  const input = e.target as HTMLInputElement;
  const file = input.files?.[0];
  const id = focused.value || points.value[0]?.id;
  if (file && id) await photoAt(id, file);
  input.value = "";
}
async function saveText() {
  const c = target.value;
  const what = dialog.value;
  const said = text.value.trim();
  dialog.value = null; // first, so that the next key means the walk again
  if (what === "unseen" && c) {
    moveOn(c.id);
    await answer(c, "unseen", [], said);
  } else if (what === "sound" && c && said) {
    moveOn(c.id);
    await answer(c, "sound", [], said);
  } else if (what === "undo" && said) {
    await takeBack(said);
  } else if (what === "note" && said) {
    await tell(w.add({ kind: "noted", text: said, checkpoint: c?.id ?? "" }));
  }
}
async function take(what: AnswerWhat) {
  if (await tell(w.add(what))) moveOn(what.checkpoint);
}
async function undo() {
  const last = w.undoable.value;
  if (last?.reason) ask("undo", walk.value?.checkpoints.find((x) => x.id === last.checkpoint) ?? null);
  else if (last) await takeBack("");
}
async function takeBack(reason: string) {
  const last = await w.undo(reason);
  if (!last) return;
  const c = walk.value?.checkpoints.find((x) => x.id === last.checkpoint);
  ElNotification({ title: t("walk.undone"), message: c?.name ?? "", duration: 2500, position: "bottom-left" });
  if (c && c.station !== here.value) await arrive(c.station);
}

const findingsOf = (c: Checkpoint | null): Finding[] => {
  const a = c ? answers.value.get(c.id) : null;
  return a?.answer === "defect" ? a.findings : [];
};

function key(e: KeyboardEvent) {
  const el = e.target as HTMLElement;
  if (drawer.value || dialog.value || el.closest("input, textarea, [role=slider]") || e.ctrlKey || e.metaKey || e.altKey) return;
  const i = points.value.findIndex((c) => c.id === focused.value);
  const c = points.value[i];
  const step = (d: number) => points.value[Math.min(points.value.length - 1, Math.max(0, i + d))];
  const act: Record<string, () => void> = {
    ArrowDown: () => step(1) && focus(step(1)!.id),
    j: () => step(1) && focus(step(1)!.id),
    ArrowUp: () => step(-1) && focus(step(-1)!.id),
    k: () => step(-1) && focus(step(-1)!.id),
    s: () => c && !c.reading && void sound(c),
    d: () => c && defect(c),
    n: () => c && ask("unseen", c),
    m: () => cards.value?.querySelector<HTMLElement>(`[data-test="cp-${c?.id}"] .title`)?.click(),
    u: () => void undo(),
    ArrowRight: () => void onward(),
  };
  if (act[e.key]) {
    e.preventDefault();
    act[e.key]!();
  }
}
</script>

<template>
  <div v-if="walk && station" class="walk">
    <header class="top">
      <RouterLink to="/" class="button plain back" :aria-label="t('walk.toYard')">←</RouterLink>
      <h1>{{ walk.machine.name }}<span class="family"> · {{ walk.machine.family }}</span></h1>
      <dl><div><dt>{{ t("approach.hour_meter") }}</dt><dd class="figure">{{ hourMeter.toFixed(1) }}</dd></div>
        <div><dt>{{ t("walk.yardNow") }}</dt><dd class="figure">{{ t("walk.weather", { c: String(conditions.air_c).replace("-", "−") }) }}<template v-if="conditions.dark"> · {{ t("walk.dark") }}</template><template v-if="conditions.rain"> · {{ t("walk.rain") }}</template></dd></div></dl>
      <ConnectionState />
      <div class="pace">
        <span class="quiet">{{ t("walk.planned", { min: Math.round(planned / 60) }) }}</span>
        <b><span>{{ stopwatch(passed) }}</span> {{ t("walk.at", { n: at + 1, of: stations.length }) }}</b>
        <svg viewBox="0 0 150 14" width="150" height="14" aria-hidden="true"><rect y="4" width="150" height="7" rx="3.5" class="all" /><rect y="4" :width="150 * (done.size / stations.length)" height="7" rx="3.5" class="part" /><rect :x="Math.min(147, 150 * (passed / Math.max(1, planned)))" width="3" height="14" class="pointer" /></svg>
      </div>
    </header>
    <section class="plan" :aria-label="t('walk.plan')">
      <PlanMap v-if="!side" :walk="walk" :here="here" :done="done" :pins="pins" :way="steps" :other="other" :spot="spot" :dots="dots" @go="go" />
      <SideMap v-else :walk="walk" :pins="pins" :spot="spot" :dots="dots" />
      <nav class="levels" :aria-label="t('walk.levels')">
        <button v-for="l in levels" :key="l.level" type="button" class="level" :class="{ on: station.level === l.level }" :aria-pressed="station.level === l.level" @click="go(l.first!.id)">{{ t(`level.${l.level}`) }}<span class="quiet" :title="t('walk.left', { n: l.left })"> · {{ l.left }}</span></button>
        <button type="button" class="level end" :aria-pressed="side" data-test="side" @click="side = !side">{{ side ? t("walk.above") : t("walk.side") }}</button>
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
        <button v-if="station.id !== stations[0]?.id" type="button" class="button cannot" :aria-pressed="asked.blocked.includes(here)" data-test="blocked" @click="blockHere">{{ asked.blocked.includes(here) ? t("way.freeAgain") : t("way.cannot") }}</button>
      </div>
      <p v-if="asked.blocked.includes(here) && untouched(here).length" class="card row spread wrap">{{ t("way.stillBlocked") }}
        <button type="button" class="button" data-test="report-blocked" @click="reportBlocked(here, t('way.blockedReason'))">{{ t("way.report", untouched(here).length) }}</button></p>
      <CheckpointCard
        v-for="c in points" :key="c.id" :checkpoint="c" :walk="walk" :conditions="conditions" :shown="answers.get(c.id) ?? null" :role="session.person?.role ?? 'operator'"
        :earlier="earlierAt(c.id)" :photos="photos.get(c.id)?.length ?? 0" :focused="focused === c.id"
        :notes="notesAt(c.id)" :show-me="walk.show_me.includes(c.id)"
        @look="focused = c.id" @sound="sound(c)" @defect="defect(c)" @unseen="ask('unseen', c)" @take="take" @photo="(b) => photoAt(c.id, b)"
      />
    </section>
    <footer class="bar">
      <button type="button" class="button" :disabled="!w.undoable.value" data-test="undo" @click="undo">{{ t("walk.undo") }}</button>
      <button type="button" class="button" data-test="note" @click="ask('note', points.find((c) => c.id === focused) ?? null)">{{ t("walk.note") }}</button>
      <label class="button photo" tabindex="0" @keydown.enter="($event.currentTarget as HTMLElement).click()"><input type="file" accept="image/*" capture="environment" class="sr-only" tabindex="-1" data-test="photo-here" @change="photoHere" />{{ t("walk.photo") }}</label>
      <p class="quiet ahead">{{ next ? t("walk.ahead", { name: next.station.name, m: Math.round(next.metres), s: Math.round(next.seconds + next.station.look_s) }) : other.size ? t("way.mineDone", other.size) : t("walk.aheadVerdict") }}</p>
      <button type="button" class="button primary" data-test="onward" @click="onward">{{ next ? t(leftAt(here) ? "walk.onLeft" : "walk.on", { n: steps.indexOf(next) + 1, left: leftAt(here) }) : t("walk.toVerdict") }} →</button>
    </footer>
    <DefectDrawer
      v-model="drawer" :walk="walk" :checkpoint="target" :machine="machine" :inspection="inspection" :opened="opened"
      :before="findingsOf(target)" :photos="target ? photos.get(target.id)?.length ?? 0 : 0" @save="saveDefect" @photo="(b) => target && photoAt(target.id, b)"
    />
    <ElDialog :model-value="dialog !== null" :title="t(`walk.${dialog ?? 'note'}Title`, { name: target?.name ?? '' })" width="560px" @close="dialog = null">
      <p v-if="dialog === 'sound' || dialog === 'undo'">{{ t("walk.reasonText") }}</p>
      <p v-if="dialog === 'cannot'" data-test="cannot">{{ t(`clear.${needed}`) }}</p>
      <ElInput v-else v-model="text" type="textarea" :rows="3" maxlength="1000" :aria-label="t('walk.why')" autofocus />
      <p v-if="dialog === 'unseen' && target?.mandatory" class="warn">{{ target.life ? t("walk.unseenLife") : t("walk.unseenMandatory") }}</p>
      <template #footer><button v-if="dialog !== 'cannot'" type="button" class="button primary" data-test="save-text" :disabled="!text.trim() && dialog !== 'unseen'" @click="saveText">{{ t(`walk.${dialog ?? "note"}Save`) }}</button>
        <button v-else-if="needed === 'put-right'" type="button" class="button primary" @click="dialog = null; target && defect(target)">{{ t("defect.putRight") }}</button>
        <button v-else type="button" class="button primary" @click="dialog = null">{{ t("look.understood") }}</button></template>
    </ElDialog>
    <WayDialog v-model="wayOpen" :walk="walk" :way="way" :done="done" :blocked-left="blockedLeft" @wish="wish" @block="block" @report="(id) => reportBlocked(id, t('way.blockedReason'))" @go="(id) => { wayOpen = false; void go(id); }" />
    <ElDialog :model-value="early !== null" :title="t('way.early')" width="560px" @close="early = null">
      <p v-for="s in early?.says ?? []" :key="s" class="warn">{{ s }}</p>
      <template #footer><button type="button" class="button" data-test="go-anyway" @click="goAnyway">{{ t("way.anyway") }}</button><button type="button" class="button primary" data-test="stay" @click="early = null">{{ t("way.stay") }}</button></template>
    </ElDialog>
    <div v-if="outbox.refused.length" class="refused card" role="alert">
      <p v-for="r in outbox.refused" :key="r.id">{{ t("walk.refused", { what: refusedWhat(r), says: r.says }) }} <button type="button" class="button" @click="outbox.tryAgain(r.id)">{{ t("walk.tryAgain") }}</button> <button type="button" class="button" @click="outbox.letGo(r.id)">{{ t("walk.drop") }}</button></p>
    </div>
    <LookDialog v-model="lookOpen" :w="w" />
  </div>
  <p v-else class="page quiet">{{ missing ? t("walk.missing") : t("wait") }}</p>
</template>

<style scoped>
.walk { display: grid; grid-template: 68px minmax(0, 1fr) 78px / minmax(0, 1fr) 566px; height: 100dvh; }
.top { grid-column: 1 / -1; display: flex; align-items: center; gap: 22px; padding: 0 24px 0 6px; border-bottom: 2px solid var(--ink); white-space: nowrap; }
.top h1 { font-size: 25px; }
.back { font-size: 26px; padding: 0 10px; }
dl { display: flex; gap: 26px; margin: 0; }
dt { font-size: 15px; color: var(--soft); }
dd { margin: 0; font-size: 21px; line-height: 1.1; }
.pace { margin-left: auto; display: grid; grid-template-columns: auto auto; gap: 0 14px; align-items: center; text-align: right; }
.pace .quiet { font-size: 15px; }
.pace b { grid-row: 2; grid-column: 1; font-size: 18px; line-height: 1.1; }
.pace svg { grid-row: 1 / 3; grid-column: 2; }
.all { fill: var(--line); } .part { fill: var(--deep); } .pointer { fill: var(--here); }
.plan { position: relative; border-right: 1px solid var(--line); padding: 8px; min-height: 0; display: flex; flex-direction: column; }
.plan svg.map { flex: 1; min-height: 0; }
.levels { display: flex; gap: 4px; }
.level { min-width: 56px; background: none; border: 0; border-bottom: 4px solid transparent; min-height: 56px; padding: 0 8px; font-weight: 560; cursor: pointer; font-size: 16px; white-space: nowrap; }
.level.on { border-bottom-color: var(--here); }
.panel { overflow-y: auto; padding: 14px 20px 24px; display: flex; flex-direction: column; gap: 12px; scroll-padding: 12px; outline-offset: -3px; }
.bar { grid-column: 1 / -1; border-top: 1px solid var(--line); background: var(--card); display: flex; align-items: center; gap: 12px; padding: 0 24px; }
.ahead { flex: 1; text-align: center; }
.bar .primary { min-width: 250px; }
.photo { position: relative; }
.level.end { margin-left: auto; }
.station-head { display: flex; justify-content: space-between; align-items: flex-start; gap: 12px; }
.cannot { font-weight: 460; padding: 6px 12px; font-size: 16px; flex: none; }
.cannot[aria-pressed="true"] { border-color: var(--hold); color: var(--hold); font-weight: 620; }
:deep(.el-dialog__footer) { display: flex; justify-content: flex-end; gap: 12px; flex-wrap: wrap; }
.warn { margin-top: 12px; color: var(--hold); font-weight: 560; }
.refused { position: fixed; left: 24px; bottom: 92px; z-index: 5; border: 3px solid var(--hold); max-width: 640px; }
@media (max-width: 1000px) {
  .walk { display: flex; flex-direction: column; height: auto; min-height: 100dvh; }
  .top { flex-wrap: wrap; gap: 2px 12px; padding: 6px 12px 6px 2px; position: sticky; top: 0; background: var(--paper); z-index: 3; }
  .top h1 { font-size: 21px; } .family, .top dl { display: none; }
  .pace { flex: 1; } .pace svg { width: 90px; }
  .plan { border-right: 0; height: 400px; flex: none; padding: 4px; }
  .levels { flex-wrap: wrap; gap: 0; }
  .level { padding: 0 7px; font-size: 15px; } .level .quiet { display: none; }
  .panel { overflow: visible; padding: 10px 12px 100px; flex: 1; }
  .bar { position: fixed; bottom: 0; left: 0; right: 0; padding: 8px 12px; z-index: 4; }
  .ahead { display: none; } .bar .primary { flex: 1; min-width: 0; } .bar .button { padding: 8px 12px; }
  .refused { left: 8px; right: 8px; }
}
@media (max-width: 700px) {
  .top { flex-wrap: nowrap; gap: 10px; min-height: 60px; padding: 0 10px 0 0; } .bar { gap: 8px; padding: 8px; } .bar .primary { font-size: 16px; padding: 6px; }
  .pace { flex: none; display: block; } .pace .quiet, .pace svg { display: none; } .pace b { font-size: 16px; }
}
</style>
