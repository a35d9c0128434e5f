<script setup lang="ts">
import { ElInput } from "element-plus";
import { ref } from "vue";
import { useI18n } from "vue-i18n";

import { call, type Schemas } from "../api/client";
import { useSession } from "../app/session";
import { dayAndTime } from "../app/times";
import { uuid7 } from "../parts/device";
import GradeMark from "../parts/GradeMark.vue";
import { askPin, isPinAgain } from "../parts/pinAgain";

/** What a machine works within that no single defect says; a supervisor accepts it here for this shift. */
const props = defineProps<{ within: Schemas["WithinOut"] }>();
const emit = defineEmits<{ changed: [] }>();
const { t } = useI18n();
const session = useSession();
const asking = ref(false);
const why = ref("");
const says = ref("");
const busy = ref(false);
let id = uuid7();

async function accept() {
  if (busy.value) return;
  busy.value = true;
  const body = { id, limits: props.within.name, reason: why.value.trim() };
  const reply = await call("post", "/api/machines/{machine}/limits", { params: { path: { machine: props.within.machine } }, body });
  busy.value = false;
  if (!reply.ok && isPinAgain(reply.problem)) return void ((await askPin(session.person!.id, [id])) && (await accept()));
  if (!reply.ok) return void (says.value = reply.problem?.detail ?? t("connection.awayLong"));
  id = uuid7();
  asking.value = false;
  why.value = says.value = "";
  emit("changed");
}
</script>

<template>
  <article class="card within" :data-test="`within-${within.machine}`">
    <GradeMark mark="limit" :size="52" />
    <div class="stack what">
      <h2 class="h3">{{ t("within.title", { name: within.machine_name }) }}</h2>
      <p v-for="line in within.says" :key="line">
        <b>{{ line }}</b>
      </p>
      <p v-if="within.accepted_by">{{ t("within.by", { name: within.accepted_by, at: dayAndTime(within.accepted_at!, session.zone) }) }}</p>
      <p v-else class="quiet">{{ t("within.waits") }}</p>
      <form v-if="asking" class="stack" @submit.prevent="accept">
        <label :for="`why-${within.machine}`">{{ t("defects.ask.accepted") }}</label>
        <ElInput :id="`why-${within.machine}`" v-model="why" type="textarea" :rows="2" maxlength="2000" data-test="within-why" />
        <p role="alert">{{ says }}</p>
        <div class="row wrap">
          <button type="submit" class="button primary" :disabled="busy || why.trim().length < 3" data-test="within-send">
            {{ t("within.accept") }}</button><button type="button" class="button" @click="asking = false">{{ t("defects.cancel") }}</button>
        </div>
      </form>
    </div>
    <div class="acts">
      <button v-if="within.may && !asking" type="button" class="button primary" data-test="within-accept" @click="asking = true">
        {{ t("within.accept") }}
      </button>
    </div>
  </article>
</template>

<style scoped>
.within { display: grid; grid-template-columns: 60px minmax(0, 1fr) 350px; gap: 14px; align-items: start; }
.what { gap: 6px; } h2, p { margin: 0; overflow-wrap: anywhere; } .acts .button { width: 100%; justify-content: center; }
@media (max-width: 800px) { .within { grid-template-columns: 52px minmax(0, 1fr); } .acts { grid-column: 1 / -1; } }
</style>
