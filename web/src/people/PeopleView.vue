<script setup lang="ts">
import { ElDialog, ElInput, ElOption, ElSelect, ElSwitch } from "element-plus";
import { computed, reactive, ref } from "vue";
import { useI18n } from "vue-i18n";

import { call, type Problem, type Schemas } from "../api/client";
import { usePeople, useSays, useTold } from "../data/queries";
import { uuid4 } from "../parts/device";
import PageState from "../parts/PageState.vue";

type Person = Schemas["PersonOut"];
const { t, tm } = useI18n();
const roles = computed(() => Object.keys(tm("role")) as Person["role"][]);
const { data, error } = usePeople();
const people = computed(() => data.value ?? []);
const unread = useSays(error);
const unsaved = ref("");
const says = computed(() => unsaved.value || unread.value);
const told = useTold();
const editing = ref(false);
const form = reactive({ id: "", name: "", role: roles.value[0]!, pin: "", active: true, fresh: true });

const tell = (p: Problem | null) => (unsaved.value = p?.detail ?? t("connection.awayLong"));

function edit(p: Person | null) {
  unsaved.value = "";
  Object.assign(
    form,
    p ? { ...p, pin: "", fresh: false } : { id: uuid4(), name: "", role: roles.value[0]!, pin: "", active: true, fresh: true },
  );
  editing.value = true;
}
async function save() {
  const reply = form.fresh
    ? await call("post", "/api/people", { body: { id: form.id, name: form.name, role: form.role, pin: form.pin } })
    : await call("patch", "/api/people/{person}", {
        params: { path: { person: form.id } },
        body: { role: form.role, pin: form.pin || null, active: form.active },
      });
  if (!reply.ok) return tell(reply.problem);
  editing.value = false;
  await told.people();
}
</script>

<template>
  <div class="page stack">
    <div class="row spread wrap">
      <h1>{{ t("people.title") }}</h1>
      <RouterLink class="button plain" to="/account" data-test="account">{{ t("account.title") }}</RouterLink><RouterLink
        class="button plain"
        to="/sessions"
        data-test="sessions"
        >{{ t("sessions.title") }}</RouterLink
      ><RouterLink class="button plain" to="/training">{{ t("training.title") }}</RouterLink
      ><button v-if="people.length" type="button" class="button primary" data-test="add-person" @click="edit(null)">
        {{ t("people.add") }}
      </button>
    </div>
    <PageState v-if="!editing" :says="says" :waits="!data" />
    <ul>
      <li v-for="p in people" :key="p.id" class="card row spread">
        <span
          ><b>{{ p.name }}</b
          ><br /><span class="quiet"
            >{{ t(`role.${p.role}`) }}<template v-if="!p.active"> · {{ t("people.left") }}</template></span
          ></span
        >
        <button type="button" class="button" @click="edit(p)">{{ t("people.change") }}</button>
      </li>
    </ul>
    <ElDialog v-model="editing" :title="form.fresh ? t('people.add') : form.name" width="520px">
      <div class="stack">
        <label v-if="form.fresh">{{ t("people.name") }}<ElInput v-model="form.name" maxlength="80" data-test="person-name" /></label>
        <label
          >{{ t("people.role")
          }}<ElSelect v-model="form.role" :aria-label="t('people.role')"
            ><ElOption v-for="r in roles" :key="r" :value="r" :label="t(`role.${r}`)" /></ElSelect
        ></label>
        <label
          >{{ form.fresh ? t("people.pin") : t("people.newPin")
          }}<ElInput
            v-model="form.pin"
            inputmode="numeric"
            maxlength="8"
            type="password"
            autocomplete="new-password"
            data-test="person-pin"
        /></label>
        <label v-if="!form.fresh" class="row spread"
          >{{ t("people.active") }}<ElSwitch v-model="form.active" :aria-label="t('people.active')"
        /></label>
        <p role="alert" class="says">{{ says }}</p>
      </div>
      <template #footer
        ><button type="button" class="button primary" data-test="save-person" @click="save">{{ t("people.save") }}</button></template
      >
    </ElDialog>
  </div>
</template>

<style scoped>
ul { list-style: none; padding: 0; margin: 0; display: grid; gap: 12px; }
.says { color: var(--hold); }
</style>
