<script setup lang="ts">
import { ElDrawer, ElInput } from "element-plus";
import { useMediaQuery } from "@vueuse/core";
import { computed } from "vue";
import { useI18n } from "vue-i18n";

import { useSession } from "../app/session";
import { dayAndTime } from "../app/times";
import { useEvening } from "../data/queries";
import ChoiceDrawing from "../parts/ChoiceDrawing.vue";
import FileButton from "../parts/FileButton.vue";
import GradeMark from "../parts/GradeMark.vue";
import TraceLines from "../parts/TraceLines.vue";
import DropCounter from "./DropCounter.vue";
import { useDefect, type DefectAt } from "./useDefect";
import type { Finding } from "./useWalk";
import NumberField from "../parts/NumberField.vue";

/** What is wrong at a checkpoint: chosen, graded as it is said, and kept. */
const props = defineProps<DefectAt & { photos: number }>();
const open = defineModel<boolean>({ required: true });
const emit = defineEmits<{ save: [findings: Finding[], why: string]; photo: [blob: Blob] }>();
const { t } = useI18n();
const wide = useMediaQuery("(min-width: 800px)");
const {
  mode,
  values,
  note,
  fixed,
  done,
  amount,
  why,
  kept,
  item,
  away,
  modes,
  first,
  rest,
  numbers,
  counts,
  mayPutRight,
  number,
  all,
  pick,
  putRight,
  toggle,
  another,
  repeat,
  canWorsen,
} = useDefect(props, open);
const session = useSession();
/** What is open at the place from earlier looks: the same again, worse, or another one. */
const standing = computed(() =>
  said.value
    ? []
    : props.walk.carried.filter((d) => d.checkpoint === props.checkpoint?.id && modes.value.some((m) => m.id === d.finding.failure_mode)),
);
/** Wear on a step looks different from wear on a tyre. */
const at = computed(() => ({ duty: props.checkpoint?.duty_id, place: props.checkpoint?.id }));
const said = computed(() => props.before.length > 0 || mode.value !== "");
const nameOf = (id: string) => props.walk.modes.find((m) => m.id === id)?.name ?? id;
const { data: evening } = useEvening(props.machine, props.inspection, open);
/** How the place was left, if somebody looked at it then. */
const left = computed(() => evening.value?.places.find((p) => p.checkpoint === props.checkpoint?.id) ?? null);
</script>

<template>
  <ElDrawer v-model="open" :direction="wide ? 'rtl' : 'btt'" :size="wide ? '620px' : '88%'" :title="checkpoint?.name" append-to-body>
    <div v-if="checkpoint" class="stack body">
      <p v-for="c in checkpoint.cautions" :key="c" class="caution">{{ c }}</p>
      <p v-if="left && evening" class="quiet" data-test="left">
        {{ t("defect.left", { at: dayAndTime(evening.at, session.zone) }) }} {{ left.said || t("overnight.nothing") }}
      </p>
      <p v-for="(k, i) in kept" :key="i" class="row">
        <b>{{ walk.modes.find((m) => m.id === k.failure_mode)?.name }}</b><span>{{ k.note }}</span
        ><button type="button" class="button" @click="kept.splice(i, 1)">{{ t("defect.drop") }}</button>
      </p>
      <section v-for="d in standing" :key="d.id" class="stack again" :data-test="`again-${d.finding.failure_mode}`">
        <p>
          <GradeMark :mark="d.grade" :size="30" /> <b>{{ nameOf(d.finding.failure_mode) }}</b>
          {{ t("defect.openSince", { at: dayAndTime(d.since, session.zone), n: d.reports }, d.reports) }}
          <span v-if="d.finding.note">{{ d.finding.note }}</span>
        </p>
        <div class="chips">
          <button type="button" class="button" data-test="again-same" @click="repeat(d.finding)">{{ t("defect.same") }}</button>
          <button v-if="canWorsen(d.finding)" type="button" class="button" data-test="again-worse" @click="repeat(d.finding, true)">
            {{ t("defect.worse") }}
          </button>
        </div>
      </section>
      <p v-if="standing.length" class="quiet">{{ t("defect.orOther") }}</p>
      <section v-for="m in modes" :key="m.id" class="mode" :class="{ on: mode === m.id }" :data-test="`mode-${m.id}`">
        <h3>{{ m.name }}</h3>
        <div class="chips">
          <button
            v-for="c in first(m).choices"
            :key="c.id"
            type="button"
            class="button drawn"
            :class="{ chosen: mode === m.id && values[first(m).id] === c.id }"
            :aria-pressed="mode === m.id && values[first(m).id] === c.id"
            @click="pick(m, c.id)">
            <ChoiceDrawing :attribute="first(m).id" :choice="c.id" v-bind="at" />{{ c.label }}
          </button>
        </div>
        <div v-if="mode === m.id" class="stack more">
          <div v-for="a in rest" :key="a.id">
            <p class="quiet">{{ a.ask }}</p>
            <div class="chips">
              <template v-if="a.kind === 'flag'">
                <button
                  type="button"
                  class="button"
                  :class="{ chosen: values[a.id] === true }"
                  :aria-pressed="values[a.id] === true"
                  :data-test="`${a.id}-yes`"
                  @click="toggle(a.id, true)">
                  {{ t("yes") }}
                </button>
                <button
                  type="button"
                  class="button"
                  :class="{ chosen: values[a.id] === false }"
                  :aria-pressed="values[a.id] === false"
                  @click="toggle(a.id, false)">
                  {{ t("no") }}
                </button>
              </template>
              <button
                v-for="c in a.choices"
                v-else
                :key="c.id"
                type="button"
                class="button drawn"
                :class="{ chosen: values[a.id] === c.id }"
                :aria-pressed="values[a.id] === c.id"
                @click="toggle(a.id, c.id)">
                <ChoiceDrawing :attribute="a.id" :choice="c.id" v-bind="at" />{{ c.label }}
              </button>
            </div>
          </div>
          <label v-for="a in numbers" :key="a.id" class="row"
            >{{ a.ask
            }}<NumberField
              :model-value="number(a.id)"
              :aria-label="a.ask"
              @update:model-value="(v: number | undefined) => (values[a.id] = v ?? 0)" />{{ a.unit }}</label
          >
          <DropCounter
            v-if="counts"
            :leak="item?.leak ?? null"
            :drops="number('drops')"
            :seconds="number('seconds')"
            @count="
              (d, s) => {
                values.drops = d;
                values.seconds = s;
              }
            " />
          <div v-if="mayPutRight" class="stack right" data-test="put-right">
            <button
              type="button"
              class="button"
              :class="{ chosen: fixed }"
              :aria-pressed="fixed"
              data-test="put-right-now"
              @click="putRight(!fixed)">
              {{ t("defect.putRight") }}
            </button>
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
        <FileButton mark class="photo" test="photo" @file="(f) => emit('photo', f)">{{
          photos ? t("defect.photoMore", { n: photos }) : t("defect.photo")
        }}</FileButton>
      </section>
    </div>
    <template #footer>
      <div class="foot">
        <div class="graded" aria-live="polite" data-test="preview">
          <template v-if="item">
            <GradeMark :mark="item.grade" :size="46" />
            <details>
              <summary>
                <b>{{ t(`mark.${item.grade}`) }}</b> · {{ item.why }}
              </summary>
              <TraceLines :trace="item.trace" />
            </details>
          </template>
          <p v-else-if="away && mode" class="quiet">{{ t("defect.away") }}</p>
          <p v-else class="quiet">{{ t("defect.choose") }}</p>
        </div>
        <button v-if="mode" type="button" class="button" @click="another">{{ t("defect.another") }}</button>
        <button
          type="button"
          class="button primary"
          :disabled="!mode && !kept.length"
          data-test="save-defect"
          @click="emit('save', all, why.trim())">
          {{ t("defect.save") }}
        </button>
      </div>
    </template>
  </ElDrawer>
</template>

<style scoped>
.mode { border-left: 5px solid var(--line); padding-left: 14px; display: grid; gap: 8px; }
.mode.on { border-left-color: var(--here); }
.more { margin-top: 6px; }
.drawn { flex-direction: column; width: 128px; min-height: 128px; padding: 8px; gap: 4px; font-size: 16px; line-height: 1.2; text-align: center; justify-content: flex-start; }
.chips .chosen { background: var(--ink); color: var(--paper); --wrong: var(--paper); }
.caution { border-left: 5px solid var(--hold); padding-left: 12px; font-weight: 560; }
.again { border: 2px solid var(--line); border-radius: 12px; padding: 10px 14px; gap: 8px; } .again svg { display: inline-block; vertical-align: middle; }
.photo { align-self: flex-start; position: relative; }
.foot { display: flex; gap: 12px; align-items: center; text-align: left; }
.graded { flex: 1; display: flex; gap: 12px; align-items: flex-start; min-width: 0; max-height: 220px; overflow: auto; }
summary { cursor: pointer; font-size: 17px; min-height: 44px; }
@media (max-width: 700px) { .foot { flex-wrap: wrap; } .graded { flex-basis: 100%; } .foot .button { flex: 1; } }
</style>
