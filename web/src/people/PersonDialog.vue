<script setup lang="ts">
import { ElDialog, ElInput, ElOption, ElSelect, ElSwitch } from "element-plus";
import { computed, reactive, ref } from "vue";
import { useI18n } from "vue-i18n";

import { call, type Problem, type Schemas } from "../api/client";
import { useTold } from "../data/queries";
import { uuid4 } from "../parts/device";

type Person = Schemas["StaffOut"];
/** Adding somebody, or changing their role, PIN and whether they work here; erasing who left. */
const { t, tm } = useI18n();
const told = useTold();
const roles = computed(() => Object.keys(tm("role")) as Person["role"][]);
const open = ref(false);
const says = ref("");
/** One administrator alone says why. */
const alone = ref(false);
const erasing = ref(false);
const form = reactive({ id: "", name: "", role: roles.value[0]!, pin: "", active: true, fresh: true, erased: false, reason: "" });

function edit(p: Person | null) {
  says.value = "";
  alone.value = erasing.value = false;
  const fresh = { id: uuid4(), name: "", role: roles.value[0]!, active: true, erased: false };
  const { id, name, role, active, erased } = p ?? fresh;
  Object.assign(form, { id, name, role: p?.asked?.role ?? role, active, erased, pin: "", reason: "", fresh: p === null });
  open.value = true;
}
function refused(p: Problem | null) {
  says.value = p?.detail ?? t("connection.awayLong");
  if (p?.field === "reason") alone.value = true;
}
async function save() {
  says.value = "";
  const { role, reason } = form;
  const reply = form.fresh
    ? await call("post", "/api/people", { body: { id: form.id, name: form.name, role, pin: form.pin, reason } })
    : await call("patch", "/api/people/{person}", {
        params: { path: { person: form.id } },
        body: { role, pin: form.pin || null, active: form.active, reason },
      });
  if (!reply.ok) return refused(reply.problem);
  open.value = false;
  await told.people();
}
async function erase() {
  const reply = await call("delete", "/api/people/{person}/name", { params: { path: { person: form.id } } });
  if (!reply.ok) return refused(reply.problem);
  open.value = false;
  await told.people();
}
defineExpose({ edit });
</script>

<template>
  <ElDialog v-model="open" :title="form.fresh ? t('people.add') : form.name" width="min(520px, 94vw)">
    <div class="stack">
      <label v-if="form.fresh">{{ t("people.name") }}<ElInput v-model="form.name" maxlength="80" data-test="person-name" /></label>
      <label
        >{{ t("people.role")
        }}<ElSelect v-model="form.role" :aria-label="t('people.role')" data-test="person-role"
          ><ElOption v-for="r in roles" :key="r" :value="r" :label="t(`role.${r}`)" /></ElSelect
      ></label>
      <label
        >{{ form.fresh ? t("people.pin") : t("people.newPin")
        }}<ElInput v-model="form.pin" inputmode="numeric" maxlength="8" type="password" autocomplete="new-password" data-test="person-pin"
      /></label>
      <label v-if="!form.fresh" class="row spread"
        >{{ t("people.active") }}<ElSwitch v-model="form.active" :aria-label="t('people.active')"
      /></label>
      <p v-if="says" role="alert" class="says">{{ says }}</p>
      <label v-if="alone">{{ t("people.reason") }}<ElInput v-model="form.reason" maxlength="300" data-test="person-reason" /></label>
      <div v-if="!form.fresh && !form.active" class="stack erase">
        <template v-if="erasing">
          <p>{{ t("people.eraseSays") }}</p>
          <button type="button" class="button" data-test="erase-person" @click="erase">
            {{ t("people.eraseNow", { name: form.name }) }}
          </button>
        </template>
        <button v-else type="button" class="button plain" data-test="erase" @click="erasing = true">{{ t("people.erase") }}</button>
      </div>
    </div>
    <template #footer
      ><button type="button" class="button primary" data-test="save-person" @click="save">{{ t("people.save") }}</button></template
    >
  </ElDialog>
</template>

<style scoped>
.says { color: var(--hold); margin: 0; } .erase { border-top: 1px solid var(--line); padding-top: 12px; } .erase p { margin: 0; }
</style>
