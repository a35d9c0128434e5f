<script setup lang="ts">
import { ElInput } from "element-plus";
import { ref } from "vue";
import { useI18n } from "vue-i18n";

import { call, type Schemas } from "../api/client";
import { useSession } from "../app/session";
import { dayAndTime } from "../app/times";
import { uuid7 } from "./device";

/** Whose locks are on a machine; one's own is put on and taken off here. */
const props = defineProps<{ machine: string; locks: Schemas["LockOut"][] }>();
const emit = defineEmits<{ changed: [file: Schemas["MachineFileOut"]] }>();
const { t } = useI18n();
const session = useSession();
const why = ref("");
const reason = ref("");
const asking = ref("");
const putting = ref(false);
const says = ref("");
/** The id of what is being said: said again after no answer, it counts once. */
let id = uuid7();
function heard(reply: Awaited<ReturnType<typeof call<"post", "/api/machines/{machine}/locks">>>) {
  says.value = reply.ok ? "" : reply.away ? t("connection.awayLong") : (reply.problem?.detail ?? "");
  if (!reply.ok) return;
  id = uuid7();
  why.value = reason.value = asking.value = "";
  putting.value = false;
  emit("changed", reply.data);
}
const put = async () =>
  heard(
    await call("post", "/api/machines/{machine}/locks", {
      params: { path: { machine: props.machine } },
      body: { id, why: why.value.trim() },
    }),
  );
async function off(lock: Schemas["LockOut"]) {
  if (lock.with_reason && asking.value !== lock.id) {
    asking.value = lock.id;
    return;
  }
  heard(
    await call("post", "/api/machines/{machine}/locks/{lock}/off", {
      params: { path: { machine: props.machine, lock: lock.id } },
      body: { id, reason: reason.value.trim() },
    }),
  );
}
</script>

<template>
  <section class="card stack locks" :class="{ on: locks.length }" data-test="locks">
    <h2 class="h3">{{ t("lock.title") }}</h2>
    <ul v-if="locks.length">
      <li v-for="l in locks" :key="l.id" :data-test="`lock-of-${l.id}`">
        <div class="row spread wrap">
          <span
            ><b>{{ l.by }}</b> · {{ dayAndTime(l.at, session.zone) }}<br />{{ l.why
            }}<small v-if="l.repair"> {{ t("lock.repair") }}</small></span
          >
          <button
            v-if="l.yours"
            type="button"
            class="button"
            :disabled="asking === l.id && reason.trim().length < 10"
            data-test="lock-off"
            @click="off(l)">
            {{ t(l.with_reason ? "lock.offOther" : "lock.off") }}
          </button>
        </div>
        <ElInput
          v-if="asking === l.id"
          v-model="reason"
          maxlength="400"
          :placeholder="t('lock.sure')"
          :aria-label="t('lock.sure')"
          data-test="lock-sure" />
      </li>
    </ul>
    <p v-else class="quiet">{{ t("lock.none") }}</p>
    <form v-if="putting" class="stack" @submit.prevent="put">
      <ElInput v-model="why" maxlength="400" :placeholder="t('lock.why')" :aria-label="t('lock.why')" data-test="lock-why" />
      <button type="submit" class="button primary" :disabled="why.trim().length < 3" data-test="lock-put">{{ t("lock.put") }}</button>
    </form>
    <button v-else type="button" class="button" data-test="lock-begin" @click="putting = true">{{ t("lock.put") }}</button>
    <p class="quiet">{{ t("lock.metal") }}</p>
    <p v-if="says" role="alert">{{ says }}</p>
  </section>
</template>

<style scoped>
.on { border: 2px solid var(--hold); } ul { list-style: none; margin: 0; padding: 0; display: flex; flex-direction: column; gap: 12px; } .button { align-self: flex-start; }
</style>
