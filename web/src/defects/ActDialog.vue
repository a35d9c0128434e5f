<script setup lang="ts">
import { ElDialog, ElInput } from "element-plus";
import { computed, ref, watch } from "vue";
import { useI18n } from "vue-i18n";

import { call, type Schemas } from "../api/client";
import { useSession } from "../app/session";
import { uuid7 } from "../parts/device";
import { askPin, isPinAgain } from "../parts/pinAgain";

type Kind = Schemas["ActIn"]["kind"];

/** What somebody did about a defect, in words; sent under one id however often it is tried. */
const props = defineProps<{ defect: Schemas["OpenDefectOut"]; kind: Kind | "" }>();
const emit = defineEmits<{ done: []; close: [] }>();
const { t } = useI18n();
const session = useSession();
const note = ref("");
const parts = ref("");
const energies = ref<string[]>([]);
const id = ref("");
/** What was on the page when the dialog was opened: what comes in later was not seen. */
const shown = ref({ seen: [] as string[], release: "" });
const says = ref("");
const busy = ref(false);
const needsWords = computed(() => ["accepted", "isolated", "released"].includes(props.kind));

watch(
  () => props.kind,
  (kind) => {
    if (!kind) return;
    id.value = uuid7();
    shown.value = { seen: [...props.defect.entries], release: props.defect.release };
    note.value = parts.value = says.value = "";
    energies.value = kind === "isolated" ? [...props.defect.energies] : [];
  },
);
const toggle = (e: string) =>
  (energies.value = energies.value.includes(e) ? energies.value.filter((x) => x !== e) : [...energies.value, e]);
async function send() {
  if (!props.kind || busy.value) return;
  busy.value = true;
  const body = { id: id.value, kind: props.kind, note: note.value, parts: parts.value, energies: energies.value, ...shown.value };
  const reply = await call("post", "/api/machines/{machine}/defects/{defect}/acts", {
    params: { path: { machine: props.defect.machine, defect: props.defect.id } },
    body,
  });
  busy.value = false;
  if (reply.ok) return emit("done");
  if (isPinAgain(reply.problem)) return void ((await askPin(session.person!.id, [id.value])) && (await send()));
  says.value = reply.problem?.detail ?? t("connection.awayLong");
}
</script>

<template>
  <ElDialog :model-value="kind !== ''" :title="kind ? t(`defects.act.${kind}`) : ''" width="min(620px, 94vw)" @close="emit('close')">
    <form class="stack" @submit.prevent="send">
      <p>
        <b>{{ defect.machine_name }} · {{ defect.place }}</b> {{ defect.failure }}
      </p>
      <template v-if="kind === 'isolated'">
        <p v-for="line in defect.safe_repair" :key="line" class="caution">{{ line }}</p>
        <div v-if="defect.energies.length" class="chips">
          <button
            v-for="e in defect.energies"
            :key="e"
            type="button"
            class="button"
            :class="{ chosen: energies.includes(e) }"
            :aria-pressed="energies.includes(e)"
            @click="toggle(e)">
            {{ t(`defects.energy.${e}`) }}
          </button>
        </div>
      </template>
      <p v-if="kind === 'accepted'">{{ defect.limits.join(" ") }}</p>
      <p v-if="kind === 'rechecked'">{{ t("defects.checkAsk", { name: defect.released_by }) }}</p>
      <template v-else>
        <label for="act-note">{{ t(`defects.ask.${kind || "acknowledged"}`) }}</label>
        <ElInput id="act-note" v-model="note" type="textarea" :rows="3" maxlength="2000" data-test="act-note" />
      </template>
      <template v-if="kind === 'released'"
        ><label for="act-parts">{{ t("defects.parts") }}</label
        ><ElInput id="act-parts" v-model="parts" maxlength="400" data-test="act-parts"
      /></template>
      <p role="alert">{{ says }}</p>
      <div class="row spread">
        <button type="button" class="button" @click="emit('close')">{{ t("defects.cancel") }}</button><button
          type="submit"
          class="button primary"
          :disabled="busy || (needsWords && note.trim().length < 3)"
          data-test="act-send">
          {{ kind ? t(`defects.act.${kind}`) : "" }}
        </button>
      </div>
    </form>
  </ElDialog>
</template>

<style scoped>
.chosen { background: var(--ink); color: var(--paper); }
.caution { border-left: 5px solid var(--hold); padding-left: 12px; font-weight: 560; }
</style>
