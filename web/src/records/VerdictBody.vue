<script setup lang="ts">
import { computed, ref } from "vue";
import { useI18n } from "vue-i18n";

import type { Schemas } from "../api/client";
import { useSession } from "../app/session";
import { day, dayAndTime } from "../app/times";
import GradeMark from "../parts/GradeMark.vue";
import JudgementLine from "../parts/JudgementLine.vue";
import PinnedPlan from "../parts/PinnedPlan.vue";
import ViewLost from "../parts/ViewLost.vue";
import TraceLines from "../parts/TraceLines.vue";
import { figure } from "../app/language";
import { told } from "../readings/units";
import LimitList from "./LimitList.vue";

const props = defineProps<{
  verdict: Schemas["VerdictOut"];
  people: Record<string, string>;
  photos?: Map<string, string[]>;
  names?: Map<string, string>;
  hourMeter: number;
  meterOffset: number;
  clears?: boolean;
  signed?: boolean;
  drawing?: Schemas["DrawingOut"];
  /** Where each checkpoint is on the drawing, m: then what is open is pinned there. */
  places?: Map<string, number[] | null>;
}>();
const emit = defineEmits<{ go: [checkpoint: string] }>();
const { t } = useI18n();
const session = useSession();
const open = ref(new Set<number>([0]));
const pins = computed(() => [
  ...props.verdict.items.map((i) => ({
    key: i.defect || i.checkpoint,
    at: props.places?.get(i.checkpoint) ?? null,
    mark: i.grade,
    title: `${i.name}: ${i.why}`,
  })),
  ...props.verdict.left.map((id) => ({
    key: id,
    at: props.places?.get(id) ?? null,
    mark: "unseen" as const,
    title: props.names?.get(id) ?? id,
  })),
]);
function toItem(key: string) {
  if (props.verdict.left.includes(key)) return emit("go", key);
  open.value.add(props.verdict.items.findIndex((i) => (i.defect || i.checkpoint) === key));
  document.getElementById(`item-${key}`)?.scrollIntoView({ block: "center" });
}
const toggle = (i: number) => (open.value.has(i) ? open.value.delete(i) : open.value.add(i));
</script>

<template>
  <section class="verdict" :class="verdict.outcome" data-test="verdict">
    <GradeMark :mark="verdict.outcome" :size="96" silent />
    <div>
      <p class="word" data-test="outcome">
        {{ clears || verdict.outcome !== "ready" ? t(`mark.${verdict.outcome}`) : t("verdict.nothing") }}
      </p>
      <p data-test="why">{{ verdict.why }}</p>
    </div>
  </section>
  <div class="twin" :class="{ both: verdict.limits.length }">
    <LimitList v-if="verdict.limits.length" :limits="verdict.limits" :signs="verdict.limit_signs" />
    <section v-if="drawing && pins.some((p) => p.at)" class="card" data-test="verdict-plan">
      <PinnedPlan :drawing="drawing" :pins="pins" :label="t('verdict.drawn')" @pick="toItem" />
    </section>
  </div>
  <ul class="items">
    <li
      v-for="(item, i) in verdict.items"
      :id="`item-${item.defect || item.checkpoint}`"
      :key="item.defect || item.checkpoint"
      class="card"
      :data-test="`item-${item.checkpoint}`">
      <button type="button" class="line" :aria-expanded="open.has(i)" @click="toggle(i)">
        <GradeMark :mark="item.grade" :size="44" />
        <span class="grow">
          <b>{{ item.name }}</b>
          <span class="says">{{ item.why }}</span>
          <span class="quiet"
            >{{ t(`mark.${item.grade}`)
            }}<template v-if="item.due_hour != null">
              ·
              {{
                t(item.due_hour < hourMeter ? "verdict.overdue" : "verdict.due", { h: figure(item.due_hour - meterOffset, 0) })
              }}</template
            ><template v-if="item.carried || item.reports > 1">
              · {{ t("verdict.since", { at: day(item.since, session.zone), n: item.reports }, item.reports) }}</template
            ></span
          >
        </span>
        <span class="quiet open">{{ open.has(i) ? t("verdict.close") : t("verdict.why") }}</span>
      </button>
      <div v-if="open.has(i)" class="inside">
        <p v-if="item.finding.note">
          <b>{{ t("verdict.noted") }}</b> {{ item.finding.note }} <span class="quiet">· {{ people[item.by] }}</span>
        </p>
        <p v-if="item.pending">
          <b>{{ t("card.pending", { name: people[item.pending] ?? "" }) }}</b>
        </p>
        <p v-if="item.says" data-test="says">{{ item.says }}</p>
        <TraceLines :trace="item.trace" />
        <JudgementLine v-if="item.leak?.rate != null" :judgement="item.leak.judgement" />
        <p v-if="item.first_action">
          <b>{{ t("verdict.first") }}</b> {{ item.first_action }}
        </p>
        <p v-for="s in item.safe_repair" :key="s" class="safe">{{ s }}</p>
        <div v-if="photos?.get(item.checkpoint)" class="photos">
          <a v-for="p in photos.get(item.checkpoint)" :key="p" :href="`/api/photos/${p}`" target="_blank"
            ><img :src="`/api/photos/${p}`" :alt="t('verdict.photoOf', { name: item.name })" loading="lazy"
          /></a>
        </div>
      </div>
    </li>
  </ul>
  <section v-for="c in verdict.combined" :key="c.rule" class="card row">
    <GradeMark :mark="c.grade" :size="40" />
    <p>
      {{ c.says }} <small class="quiet">{{ c.rule }}</small>
    </p>
  </section>
  <ViewLost v-if="verdict.view && drawing" :view="verdict.view" :drawing="drawing" />
  <section v-for="r in verdict.released" :key="r.checkpoint + r.failure_mode + r.ground" class="card row" data-test="released">
    <GradeMark mark="sound" :size="40" />
    <p>
      {{
        t(`verdict.ground.${r.ground}`, { what: names?.get(r.checkpoint) ?? r.checkpoint, name: people[r.by], grade: t(`mark.${r.grade}`) })
      }}
      {{ r.reason }} <b v-if="r.other_must_sign">{{ t("verdict.other") }}</b>
    </p>
  </section>
  <section v-for="i in verdict.ignored" :key="i.entry + i.report" class="card row" data-test="ignored">
    <GradeMark mark="unseen" :size="40" silent />
    <p>{{ t("verdict.ignored", { what: names?.get(i.checkpoint) ?? i.checkpoint, name: people[i.by] }) }} {{ i.says }}</p>
  </section>
  <section v-if="verdict.differ.length" class="card row" data-test="differ">
    <GradeMark mark="unseen" :size="40" silent />
    <p>{{ t("verdict.differ", { names: verdict.differ.map((d) => names?.get(d) ?? d).join(", ") }) }}</p>
  </section>
  <section v-if="verdict.readings?.length" class="card stack" data-test="readings">
    <h2 class="h3">{{ t("reading.listed") }}</h2>
    <p v-for="r in verdict.readings" :key="r.entry" class="read" :class="r.judgement.band">
      <b>{{ `${r.name}, ${r.title}:` }}</b> <b v-if="r.value != null && r.unit">{{ told(r.value, r.unit, null) }}</b>
      {{ r.judgement.action }} <span class="quiet">{{ people[r.by] }}</span>
    </p>
  </section>
  <section v-for="[id, level] in verdict.levels" :key="id" class="card">
    <h2 class="h3">{{ t("verdict.level") }}</h2>
    <JudgementLine :judgement="level.judgement" />
  </section>
  <section v-if="verdict.left.length" class="card stack">
    <h2 class="h3">{{ t("verdict.left", { n: verdict.left.length }) }}</h2>
    <div class="chips">
      <button v-for="l in verdict.left.slice(0, 24)" :key="l" type="button" class="button" @click="emit('go', l)">
        {{ names?.get(l) ?? l }}
      </button>
    </div>
  </section>
  <p class="quiet">
    {{
      verdict.outcome === "held"
        ? ""
        : verdict.valid_until
          ? t("verdict.valid", {
              at: dayAndTime(verdict.valid_until, session.zone),
              h: figure((verdict.valid_until_hour ?? 0) - meterOffset, 1),
            })
          : signed
            ? ""
            : t("verdict.ifSigned")
    }}
    {{ t("verdict.book", { v: verdict.rulebook, r: verdict.regime }) }}
  </p>
</template>

<style scoped>
.verdict { display: flex; gap: 22px; align-items: center; padding: 18px 22px; border: 3px solid currentColor; border-radius: 16px; background: var(--card); }
.verdict > div { color: var(--ink); }
.ready { color: var(--sound); } .ready-mends-due { color: var(--mend); } .limited { color: var(--limit); } .held { color: var(--hold); } .incomplete { color: var(--here); }
.word { font-size: 40px; font-weight: 720; line-height: 1.1; }
.twin { display: grid; gap: 12px; } .twin:empty { display: none; }
@media (min-width: 1000px) { .both { grid-template-columns: minmax(0, 1fr) minmax(0, 1fr); align-items: start; } }
.items { list-style: none; padding: 0; margin: 0; display: grid; gap: 12px; }
.line { display: flex; gap: 14px; width: 100%; align-items: center; text-align: left; background: none; border: 0; cursor: pointer; min-height: 56px; padding: 0; }
.grow { flex: 1; display: grid; gap: 2px; min-width: 0; }
.says { font-size: 17px; }
.open { text-decoration: underline; padding: 16px 6px; }
.inside { border-top: 1px solid var(--line); margin-top: 12px; padding-top: 10px; display: grid; gap: 8px; }
.read { border-left: 5px solid var(--sound); padding-left: 12px; } .read.act { border-color: var(--mend); } .read.stop { border-color: var(--hold); } .read.refused { border-color: var(--line); }
.safe { border-left: 5px solid var(--hold); padding-left: 12px; }
.photos { display: flex; gap: 12px; flex-wrap: wrap; }
.photos img { height: 150px; border-radius: 10px; border: 1px solid var(--line); display: block; }
@media (max-width: 700px) { .verdict { padding: 14px; gap: 14px; } .verdict svg { width: 64px; height: 64px; } .word { font-size: 30px; } }
</style>
