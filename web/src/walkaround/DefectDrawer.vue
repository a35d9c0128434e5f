<script setup lang="ts">
import { ElDrawer, ElInput, ElInputNumber } from "element-plus";
import { useDebounceFn, useMediaQuery } from "@vueuse/core";
import { computed, reactive, ref, watch } from "vue";
import { useI18n } from "vue-i18n";

import { api, ask, type Schemas } from "../api/client";
import GradeMark from "../parts/GradeMark.vue";
import type { Mark } from "../parts/marks";
import TraceLines from "../parts/TraceLines.vue";
import DropCounter from "./DropCounter.vue";
import { NO_OPENING, type Checkpoint, type Finding } from "./useWalk";

const props = defineProps<{
  walk: Schemas["WalkOut"];
  checkpoint: Checkpoint | null;
  machine: string;
  inspection: string;
  opened: Schemas["OpeningOut"] | null;
  before: Finding[];
  photos: number;
}>();
const open = defineModel<boolean>({ required: true });
const emit = defineEmits<{ save: [findings: Finding[], why: string]; photo: [blob: Blob] }>();
const { t } = useI18n();
const wide = useMediaQuery("(min-width: 800px)");

type Value = string | number | boolean;
const mode = ref("");
const values = reactive<Record<string, Value>>({});
const note = ref("");
const fixed = ref(false);
const done = ref("");
const amount = ref("");
/** Why what was reported before is said otherwise now. */
const why = ref("");
const kept = ref<Finding[]>([]);
const item = ref<Schemas["ItemOut"] | null>(null);
const away = ref(false);

const modes = computed(() => (props.checkpoint?.failure_modes ?? []).map((id) => props.walk.modes.find((m) => m.id === id)!).filter(Boolean));
const attribute = (id: string) => props.walk.attributes.find((a) => a.id === id)!;
/** The first ordered question of a mode is asked at once, so that a defect is three taps. */
const first = (m: Schemas["ModeOut"]) => attribute(m.attributes.find((a) => attribute(a).kind === "scale") ?? m.attributes[0]!);
const current = computed(() => modes.value.find((m) => m.id === mode.value) ?? null);
const rest = computed(() => (current.value?.attributes ?? []).map(attribute).filter((a) => a.id !== first(current.value!).id && a.kind !== "number"));
const numbers = computed(() => (current.value?.attributes ?? []).map(attribute).filter((a) => a.kind === "number" && !["drops", "seconds"].includes(a.id)));
const counts = computed(() => current.value?.id === "leak" && values.leak_class === "III");

watch(open, (now) => {
  if (!now) return;
  kept.value = [...props.before];
  const again = kept.value.shift();
  clear();
  if (again) {
    mode.value = again.failure_mode;
    Object.assign(values, again.attributes);
    note.value = again.note ?? "";
    if (again.put_right) {
      fixed.value = true;
      done.value = again.put_right.done;
      amount.value = again.put_right.amount ?? "";
    }
  }
});

function clear() {
  mode.value = "";
  note.value = done.value = amount.value = why.value = "";
  fixed.value = false;
  item.value = null;
  for (const key of Object.keys(values)) delete values[key];
}

function pick(m: Schemas["ModeOut"], choice: string) {
  if (mode.value !== m.id) {
    for (const key of Object.keys(values)) delete values[key];
    mode.value = m.id;
    if (m.attributes.includes("fluid") && props.checkpoint?.fluid) values.fluid = props.checkpoint.fluid;
  }
  values[first(m).id] = choice;
}
/** What the operator may put right himself here, and says so. */
const mayPutRight = computed(() => Boolean(current.value && props.checkpoint?.put_right.includes(current.value.id)));
function putRight(on: boolean) {
  fixed.value = on;
  if (on && !done.value) done.value = current.value?.put_right ?? "";
}
const figure = (id: string) => (typeof values[id] === "number" ? values[id] : undefined);
const toggle = (id: string, choice: Value) => (values[id] === choice ? delete values[id] : (values[id] = choice));

const finding = computed<Finding>(() => {
  const attributes: Record<string, Value> = {};
  for (const a of current.value?.attributes ?? []) if (values[a] !== undefined) attributes[a] = values[a]!;
  const right = fixed.value && mayPutRight.value && done.value.trim() ? { done: done.value.trim(), amount: amount.value.trim() } : null;
  return { failure_mode: mode.value, attributes, note: note.value.trim(), put_right: right };
});

const preview = useDebounceFn(async () => {
  if (!mode.value || !props.checkpoint) return;
  const reply = await ask<Schemas["ItemOut"]>(
    api.POST("/api/grade", {
      body: {
        machine: props.machine, inspection: props.inspection, checkpoint: props.checkpoint.id, finding: { ...finding.value, attributes: finding.value.attributes ?? {}, note: finding.value.note ?? "" } as Schemas["FindingIn"],
        opened: props.opened ?? NO_OPENING,
      },
    }),
  );
  away.value = !reply.ok && reply.away;
  item.value = reply.ok ? reply.data : null;
}, 120);
watch([mode, values, note, fixed, done, amount], () => void preview(), { deep: true });

function photo(e: Event) {
  const file = (e.target as HTMLInputElement).files?.[0];
  if (file) emit("photo", file);
  (e.target as HTMLInputElement).value = "";
}
function another() {
  kept.value = [...kept.value, finding.value];
  clear();
}
function save() {
  emit("save", mode.value ? [finding.value, ...kept.value] : kept.value, why.value.trim());
}
</script>

<template>
  <ElDrawer v-model="open" :direction="wide ? 'rtl' : 'btt'" :size="wide ? '620px' : '88%'" :title="checkpoint?.name" append-to-body>
    <div v-if="checkpoint" class="stack body">
      <p v-for="c in checkpoint.cautions" :key="c" class="caution">{{ c }}</p>
      <p v-for="(k, i) in kept" :key="i" class="row"><b>{{ walk.modes.find((m) => m.id === k.failure_mode)?.name }}</b><span>{{ k.note }}</span><button type="button" class="button" @click="kept.splice(i, 1)">{{ t("defect.drop") }}</button></p>
      <section v-for="m in modes" :key="m.id" class="mode" :class="{ on: mode === m.id }" :data-test="`mode-${m.id}`">
        <h3>{{ m.name }}</h3>
        <div class="chips">
          <button v-for="c in first(m).choices" :key="c.id" type="button" class="button" :class="{ chosen: mode === m.id && values[first(m).id] === c.id }" :aria-pressed="mode === m.id && values[first(m).id] === c.id" @click="pick(m, c.id)">{{ c.label }}</button>
        </div>
        <div v-if="mode === m.id" class="stack more">
          <div v-for="a in rest" :key="a.id">
            <p class="quiet">{{ a.ask }}</p>
            <div class="chips">
              <template v-if="a.kind === 'flag'">
                <button type="button" class="button" :class="{ chosen: values[a.id] === true }" :aria-pressed="values[a.id] === true" :data-test="`${a.id}-yes`" @click="toggle(a.id, true)">{{ t("yes") }}</button>
                <button type="button" class="button" :class="{ chosen: values[a.id] === false }" :aria-pressed="values[a.id] === false" @click="toggle(a.id, false)">{{ t("no") }}</button>
              </template>
              <button v-for="c in a.choices" v-else :key="c.id" type="button" class="button" :class="{ chosen: values[a.id] === c.id }" :aria-pressed="values[a.id] === c.id" @click="toggle(a.id, c.id)">{{ c.label }}</button>
            </div>
          </div>
          <label v-for="a in numbers" :key="a.id" class="row">{{ a.ask }}<ElInputNumber :model-value="figure(a.id)" :aria-label="a.ask" @update:model-value="(v) => (values[a.id] = v ?? 0)" />{{ a.unit }}</label>
          <DropCounter v-if="counts" :leak="item?.leak ?? null" :drops="figure('drops')" :seconds="figure('seconds')" @count="(d, s) => { values.drops = d; values.seconds = s; }" />
          <div v-if="mayPutRight" class="stack right" data-test="put-right">
            <button type="button" class="button" :class="{ chosen: fixed }" :aria-pressed="fixed" data-test="put-right-now" @click="putRight(!fixed)">{{ t("defect.putRight") }}</button>
            <template v-if="fixed">
              <label class="quiet" for="put-right-done">{{ t("defect.done") }}</label>
              <ElInput id="put-right-done" v-model="done" maxlength="400" data-test="put-right-done" />
              <label class="quiet" for="put-right-amount">{{ t("defect.amount") }}</label>
              <ElInput id="put-right-amount" v-model="amount" maxlength="80" data-test="put-right-amount" />
            </template>
          </div>
        </div>
      </section>
      <section v-if="before.length" class="stack">
        <label class="quiet" for="defect-why">{{ t("defect.why") }}</label>
        <ElInput id="defect-why" v-model="why" maxlength="1000" data-test="defect-why" />
      </section>
      <section class="stack">
        <label class="quiet" for="defect-note">{{ t("defect.note") }}</label>
        <ElInput id="defect-note" v-model="note" type="textarea" :rows="2" maxlength="1000" />
        <label class="button photo" tabindex="0" @keydown.enter="($event.currentTarget as HTMLElement).click()"><input type="file" accept="image/*" capture="environment" class="sr-only" tabindex="-1" data-test="photo" @change="photo" />{{ photos ? t("defect.photoMore", { n: photos }) : t("defect.photo") }}</label>
      </section>
    </div>
    <template #footer>
      <div class="foot">
        <div class="graded" aria-live="polite" data-test="preview">
          <template v-if="item">
            <GradeMark :mark="item.grade as Mark" :size="46" />
            <details><summary><b>{{ t(`mark.${item.grade}`) }}</b> · {{ item.why }}</summary><TraceLines :trace="item.trace" /></details>
          </template>
          <p v-else-if="away && mode" class="quiet">{{ t("defect.away") }}</p>
          <p v-else class="quiet">{{ t("defect.choose") }}</p>
        </div>
        <button v-if="mode" type="button" class="button" @click="another">{{ t("defect.another") }}</button>
        <button type="button" class="button primary" :disabled="!mode && !kept.length" data-test="save-defect" @click="save">{{ t("defect.save") }}</button>
      </div>
    </template>
  </ElDrawer>
</template>

<style scoped>
.mode { border-left: 5px solid var(--line); padding-left: 14px; display: grid; gap: 8px; }
.mode.on { border-left-color: var(--here); }
.more { margin-top: 6px; }
.chips .chosen { background: var(--ink); color: var(--paper); }
.caution { border-left: 5px solid var(--hold); padding-left: 12px; font-weight: 560; }
.photo { align-self: flex-start; position: relative; }
.foot { display: flex; gap: 12px; align-items: center; text-align: left; }
.graded { flex: 1; display: flex; gap: 12px; align-items: flex-start; min-width: 0; max-height: 220px; overflow: auto; }
summary { cursor: pointer; font-size: 17px; min-height: 44px; }
@media (max-width: 700px) { .foot { flex-wrap: wrap; } .graded { flex-basis: 100%; } .foot .button { flex: 1; } }
</style>
