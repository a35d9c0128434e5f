<script setup lang="ts">
import { ElInput } from "element-plus";
import { computed, ref } from "vue";
import { useI18n } from "vue-i18n";

import { usePeople, useSays } from "../data/queries";
import PageState from "../parts/PageState.vue";
import PeopleList from "./PeopleList.vue";
import PersonDialog from "./PersonDialog.vue";
import RolesAsked from "./RolesAsked.vue";

const { t } = useI18n();
const { data, error } = usePeople();
const people = computed(() => data.value ?? []);
const find = ref("");
const shown = computed(() => {
  const word = find.value.trim().toLowerCase();
  return people.value.filter((p) => !word || p.name.toLowerCase().includes(word) || t(`role.${p.role}`).toLowerCase().includes(word));
});
const says = useSays(error);
const dialog = ref<InstanceType<typeof PersonDialog> | null>(null);
</script>

<template>
  <div class="page stack">
    <div class="row spread wrap">
      <h1>{{ t("people.title") }}</h1>
      <div class="row wrap">
        <RouterLink class="button plain" to="/account" data-test="account">{{ t("account.title") }}</RouterLink>
        <RouterLink class="button plain" to="/sessions" data-test="sessions">{{ t("sessions.title") }}</RouterLink>
        <RouterLink class="button plain" to="/training">{{ t("training.title") }}</RouterLink>
        <button v-if="people.length" type="button" class="button primary" data-test="add-person" @click="dialog?.edit(null)">
          {{ t("people.add") }}
        </button>
      </div>
    </div>
    <PageState :says="says" :waits="!data" />
    <RolesAsked />
    <label v-if="people.length > 12" class="find"
      >{{ t("people.find") }}<ElInput v-model="find" type="search" data-test="find-person"
    /></label>
    <ul>
      <li v-for="p in shown" :key="p.id" class="card row spread">
        <span
          ><b>{{ p.name }}</b
          ><br /><span class="quiet"
            ><template v-if="p.asked && !p.active">{{ t("people.waits", { role: t(`role.${p.asked.role}`) }) }}</template
            ><template v-else
              >{{ t(`role.${p.role}`)
              }}<template v-if="!p.active"> · {{ t(p.erased ? "people.erased" : "people.left") }}</template></template
            ></span
          ></span
        >
        <button v-if="!p.erased" type="button" class="button" :aria-label="t('people.changeOf', { name: p.name })" @click="dialog?.edit(p)">
          {{ t("people.change") }}
        </button>
      </li>
    </ul>
    <PeopleList v-if="people.length" />
    <PersonDialog ref="dialog" />
  </div>
</template>

<style scoped>
ul { list-style: none; padding: 0; margin: 0; display: grid; gap: 12px; grid-template-columns: repeat(auto-fill, minmax(min(340px, 100%), 1fr)); }
.find { max-width: 420px; }
</style>
