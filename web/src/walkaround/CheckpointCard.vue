<script setup lang="ts">
import { computed, ref } from "vue";
import { useI18n } from "vue-i18n";

import type { Schemas } from "../api/client";
import { useSession } from "../app/session";
import { day } from "../app/times";
import FileButton from "../parts/FileButton.vue";
import GradeMark from "../parts/GradeMark.vue";
import GoodPicture from "./GoodPicture.vue";
import HydraulicGlass from "./HydraulicGlass.vue";
import { LEVEL, type AnswerWhat, type Checkpoint, type Shown } from "./useWalk";
import { figure } from "../app/language";

const props = defineProps<{
  checkpoint: Checkpoint;
  walk: Schemas["WalkOut"];
  conditions: Schemas["ConditionsIn"];
  shown: Shown | null;
  earlier: Schemas["DefectOut"][];
  photos: number;
  notes: string[];
  focused: boolean;
  showMe: boolean;
}>();
const emit = defineEmits<{ sound: []; defect: []; unseen: []; take: [what: AnswerWhat]; look: []; photo: [blob: Blob] }>();
const { t } = useI18n();
const session = useSession();
// A card that scrolls under a resting pointer is not looked at: a key would answer for the wrong one.
const open = ref(false);
const word = computed(() => props.shown?.answer ?? null);
const given = computed(() => props.shown?.given ?? null);
const findings = computed(() => props.shown?.findings ?? []);
const modes = computed(() => findings.value.map((f) => props.walk.modes.find((m) => m.id === f.failure_mode)?.name ?? f.failure_mode));
const reading = computed(() => props.checkpoint.reading === LEVEL && word.value !== "defect" && word.value !== "unseen");
const because = computed(() => props.walk.because.filter((b) => b.checkpoint === props.checkpoint.id && b.change !== "removed"));
const limits = computed(() => props.checkpoint.limits.flatMap((id) => props.walk.limits.filter((l) => l.id === id)));
defineExpose({ toggle: () => (open.value = !open.value) });
</script>

<template>
  <article
    class="card"
    :class="[{ focused, reading }, word, { graded: shown && shown.mark !== 'ungraded' }]"
    :data-test="`cp-${checkpoint.id}`"
    @focusin="emit('look')"
    @pointermove="(e) => (e.movementX || e.movementY) && emit('look')">
    <div class="top">
      <button
        type="button"
        class="title"
        :aria-expanded="open"
        @click="
          open = !open;
          emit('look');
        ">
        <h3>
          {{ checkpoint.name }}<span v-if="!checkpoint.mandatory" class="quiet"> · {{ t("card.optional") }}</span>
        </h3>
        <span class="quiet">{{ checkpoint.look }}</span>
      </button>
      <GradeMark v-if="shown?.mark" :mark="shown.mark" :size="40" />
      <div class="answers" role="group" :aria-label="checkpoint.name">
        <button
          type="button"
          class="button see"
          :class="{ chosen: word === 'unseen' }"
          :aria-pressed="word === 'unseen'"
          @click="emit('unseen')">
          {{ t("card.unseen") }}
        </button>
        <button
          type="button"
          class="button"
          :class="{ chosen: word === 'defect' }"
          :aria-pressed="word === 'defect'"
          @click="emit('defect')">
          {{ t("card.defect") }}
        </button>
        <button
          v-if="!reading"
          type="button"
          class="button sound"
          :class="{ on: word === 'sound' }"
          :aria-pressed="word === 'sound'"
          @click="emit('sound')">
          {{ t("card.sound") }}
        </button>
      </div>
    </div>
    <p v-for="l in limits" :key="l.id" class="limit">
      {{ l.name }}: <b>{{ l.unit ? t("card.figure", { v: l.value, unit: l.unit }) : l.value }}</b><span v-if="l.own" class="quiet own">{{
        t("card.own")
      }}</span>
    </p>
    <p v-for="b in because" :key="b.change + b.says" class="because">{{ b.change === "must" ? t("card.must") : "" }} {{ b.says }}</p>
    <p v-if="showMe" class="ask" :class="{ met: photos }">
      <span>{{ photos ? t("card.shown") : t("card.showMe") }}</span>
      <FileButton mark v-if="!photos" :test="`show-${checkpoint.id}`" @file="(f) => emit('photo', f)">{{ t("walk.photo") }}</FileButton>
    </p>
    <p v-for="c in earlier" :key="c.id" class="earlier">
      <GradeMark :mark="c.grade" :size="26" /><span
        >{{ t("card.since", { at: day(c.since, session.zone), name: walk.people[c.by] ?? "" }) }} {{ c.finding.note }}
        <b v-if="c.pending_by">{{ t("card.pending", { name: walk.people[c.pending_by] ?? "" }) }}</b><template
          v-else-if="c.clear !== 'free'"
          >{{ c.needs }}</template
        ></span
      >
    </p>
    <p v-if="shown?.differ" class="differ">{{ t("card.differ") }}</p>
    <p v-if="modes.length || photos" class="found">
      {{ modes.join(", ") }}<template v-if="findings[0]?.note"> · {{ findings[0].note }}</template
      ><template v-if="findings[0]?.put_right"> · {{ t("card.putRight", { done: findings[0].put_right.done }) }}</template
      ><template v-if="photos"> · {{ t("card.photos", photos) }}</template>
    </p>
    <p v-for="n in notes" :key="n" class="found note">{{ n }}</p>
    <div v-if="open" class="more">
      <p>
        <b>{{ t("card.why") }}</b> {{ checkpoint.why }}
      </p>
      <p>
        <b>{{ t("card.how") }}</b> {{ checkpoint.how }}
      </p>
      <p v-for="h in checkpoint.here" :key="h" data-test="here">
        <b>{{ t("card.here") }}</b> {{ h }}
      </p>
      <p class="quiet">
        {{ t(`engine.${checkpoint.engine}`) }} · {{ checkpoint.system }} · {{ t("card.height", { z: figure(checkpoint.at[2], 1) }) }}
      </p>
      <p v-for="c in checkpoint.cautions" :key="c" class="caution">{{ c }}</p>
      <GoodPicture
        :machine="walk.machine.id"
        :model="walk.machine.model"
        :checkpoint="checkpoint.id"
        :name="checkpoint.name"
        :good="walk.good"
        :may-edit="walk.may_show_good" />
    </div>
    <slot />
    <HydraulicGlass
      v-if="reading"
      :walk="walk"
      :checkpoint="checkpoint.id"
      :conditions="conditions"
      :taken="given"
      :must-say="Boolean(given && shown?.clear !== 'free') || earlier.some((d) => d.finding.failure_mode === 'level' && d.clear !== 'free')"
      @take="(w) => emit('take', w)" />
  </article>
</template>

<style scoped>
.card { padding: 12px 14px; border-width: 1.5px; }
.card.focused { border-color: var(--deep); box-shadow: 0 0 0 1.5px var(--deep); }
.top { display: flex; gap: 12px; align-items: center; }
.title { flex: 1; min-width: 0; text-align: left; background: none; border: 0; padding: 4px 0; min-height: var(--target); cursor: pointer; border-radius: 8px; }
.title .quiet { display: block; }
.title h3 .quiet { display: inline; font-weight: 420; }
.answers { display: flex; gap: 12px; }
.answers .button { padding: 6px 14px; min-width: 84px; }
.answers .see { min-width: 64px; font-weight: 460; }
.sound { border-color: var(--sound); color: var(--sound); }
.sound.on { background: var(--sound); color: var(--on-grade); }
.earlier, .found { font-size: 16px; display: flex; gap: 8px; align-items: center; margin-top: 6px; }
.found { font-weight: 560; }
.own { margin-left: 8px; }
.differ { border-left: 5px solid var(--hold); padding-left: 12px; font-weight: 560; margin-top: 6px; }
.limit, .because { font-size: 16px; margin-top: 4px; }
.because { color: var(--soft); }
.ask { display: flex; align-items: center; justify-content: space-between; gap: 12px; margin-top: 8px; border-left: 5px solid var(--here); padding-left: 12px; font-weight: 560; }
.ask.met { border-left-color: var(--sound); }
.note { border-left: 4px solid var(--line); padding-left: 10px; font-weight: 420; }
.more { display: grid; gap: 6px; margin-top: 8px; border-top: 1px solid var(--line); padding-top: 10px; }
.caution { border-left: 5px solid var(--hold); padding-left: 12px; font-weight: 560; }
@media (max-width: 700px) { .top { flex-wrap: wrap; } .title { flex-basis: 200px; } .answers { width: 100%; } .answers .button { flex: 1; } }
</style>
