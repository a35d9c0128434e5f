<script setup lang="ts">
import { ref } from "vue";
import { useI18n } from "vue-i18n";

import { call, inLanguage, type Schemas } from "../api/client";
import { figure } from "../app/language";
import { useSession } from "../app/session";
import { dayAndTime } from "../app/times";
import GradeMark from "../parts/GradeMark.vue";
import { uuid7 } from "../parts/device";
import TraceLines from "../parts/TraceLines.vue";
import ActDialog from "./ActDialog.vue";

/** A defect: what, where, since when, how far; and what the person who looks may do about it. */
const props = defineProps<{ defect: Schemas["OpenDefectOut"]; withMachine: boolean }>();
const emit = defineEmits<{ changed: [] }>();
const { t, locale } = useI18n();
const session = useSession();
const doing = ref<Schemas["ActIn"]["kind"] | "">("");
const at = (time: string) => dayAndTime(time, session.zone);
const day = (time: string) =>
  new Intl.DateTimeFormat(locale.value, { day: "numeric", month: "short", timeZone: session.zone }).format(new Date(time));
const tag = () => inLanguage(`/api/machines/${props.defect.machine}/defects/${props.defect.id}/tag.pdf`);
const asking = ref(false);
const says = ref("");
/** One tap: whoever may do it sees it on their page Today. */
async function ask(of: Schemas["AskedOf"]) {
  asking.value = true;
  const reply = await call("post", "/api/machines/{machine}/defects/{defect}/acts", {
    params: { path: { machine: props.defect.machine, defect: props.defect.id } },
    body: { id: uuid7(), kind: "asked", role: of, note: "", seen: [...props.defect.entries], energies: [], parts: "", release: "" },
  });
  asking.value = false;
  says.value = reply.ok ? "" : (reply.problem?.detail ?? t("connection.awayLong"));
  if (reply.ok) emit("changed");
}
function done() {
  doing.value = "";
  emit("changed");
}
</script>

<template>
  <article class="card defect" :data-test="`defect-${defect.machine}-${defect.checkpoint}`">
    <GradeMark :mark="defect.grade" :size="52" />
    <div class="stack what">
      <h2 class="h3">
        <template v-if="withMachine">{{ defect.machine_name }} · </template>{{ defect.place }}: {{ defect.failure }}
      </h2>
      <p>{{ defect.why }}</p>
      <p v-for="limit in defect.limits" v-show="defect.grade === 'limit'" :key="limit">
        <b>{{ limit }}</b>
      </p>
      <p v-if="defect.finding.note">
        <q>{{ defect.finding.note }}</q>
      </p>
      <p class="quiet">
        {{ t("defects.since", { at: at(defect.since), name: defect.by })
        }}<template v-if="defect.reports > 1"> · {{ t("defects.reports", { n: defect.reports, shifts: defect.shifts }) }}</template>
      </p>
      <p v-if="defect.due">
        <b>{{ t("defects.due", { hours: figure(defect.due.hour) }) }}</b><template v-if="defect.due.likely"
          >{{ " " }}{{ t("defects.around", { from: day(defect.due.earliest!), to: day(defect.due.latest!) }) }}</template
        >
      </p>
      <p v-if="defect.lowered" class="lowered" data-test="was-overdue">
        {{
          t("defects.wasOverdue", {
            from: figure(defect.lowered.shown, 1),
            to: figure(defect.lowered.now, 1),
            name: defect.lowered.by,
            at: at(defect.lowered.at),
          })
        }}
        <q>{{ defect.lowered.why }}</q>
      </p>
      <p v-if="defect.accepted_by">{{ t("defects.acceptedBy", { name: defect.accepted_by }) }}</p>
      <p v-for="of in defect.asked" :key="of" class="waits" :data-test="`asked-${of}`">
        <b>{{ t(`defects.asked.${of}`) }}</b>
      </p>
      <p v-if="defect.released_by" class="waits">
        <b>{{ t("defects.waits", { name: defect.released_by }) }}</b>
      </p>
      <ol v-if="defect.steps.length" class="steps">
        <li v-for="(s, i) in defect.steps" :key="i">
          {{ at(s.at) }} · {{ t(`defects.did.${s.kind}${s.of ? `.${s.of}` : ""}`, { name: s.by }) }} {{ s.says }}
        </li>
      </ol>
      <div v-if="defect.photos.length" class="row wrap">
        <img
          v-for="p in defect.photos.slice(0, 4)"
          :key="p"
          :src="`/api/photos/${p}`"
          :alt="t('defects.photo', { place: defect.place })"
          width="132"
          loading="lazy" />
      </div>
      <details>
        <summary>{{ t("defects.reason") }}</summary>
        <TraceLines :trace="defect.trace" />
        <p v-for="line in defect.safe_repair" :key="line">{{ line }}</p>
      </details>
    </div>
    <div class="acts">
      <span class="stage">{{ t(`defects.stage.${defect.stage}`) }}</span>
      <button
        v-for="kind in defect.may"
        :key="kind"
        type="button"
        class="button"
        :class="{ primary: kind === 'released' || kind === 'rechecked' || kind === 'accepted' }"
        :data-test="`do-${kind}`"
        @click="doing = kind as Schemas['ActIn']['kind']">
        {{ t(`defects.act.${kind}`) }}
      </button>
      <button
        v-for="of in defect.may_ask"
        :key="of"
        type="button"
        class="button"
        :data-test="`ask-${of}`"
        :disabled="asking"
        @click="ask(of)">
        {{ t(`defects.askOf.${of}`) }}
      </button>
      <a
        v-if="defect.grade === 'hold' || defect.grade === 'limit'"
        class="button"
        :href="tag()"
        target="_blank"
        rel="noopener"
        data-test="tag"
        >{{ t("defects.tag") }}</a
      >
    </div>
    <p v-if="says" role="alert" class="lowered">{{ says }}</p>
    <ActDialog :defect="defect" :kind="doing" @close="doing = ''" @done="done" />
  </article>
</template>

<style scoped>
.defect { display: grid; grid-template-columns: 60px minmax(0, 1fr) 350px; gap: 14px; align-items: start; }
.what { gap: 6px; } h2, p { margin: 0; overflow-wrap: anywhere; }
.acts { display: grid; grid-template-columns: 1fr 1fr; gap: 10px; } .acts .button { text-align: center; justify-content: center; }
.stage { grid-column: 1 / -1; font-weight: 620; text-align: center; border: 2px solid var(--ink); border-radius: 999px; padding: 4px 10px; }
.lowered { border-left: 5px solid var(--hold); padding-left: 10px; font-weight: 560; }
.steps { margin: 0; padding-left: 20px; } .waits { border-left: 5px solid var(--here); padding-left: 10px; }
summary { cursor: pointer; min-height: 56px; display: flex; align-items: center; }
img { border-radius: 8px; }
@media (max-width: 800px) { .defect { grid-template-columns: 52px minmax(0, 1fr); } .acts { grid-column: 1 / -1; } }
</style>
