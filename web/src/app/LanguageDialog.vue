<script setup lang="ts">
import { ElDialog } from "element-plus";
import { onMounted, ref } from "vue";
import { useI18n } from "vue-i18n";

import { useLanguage } from "./language";
import { useSession } from "./session";

/** The languages there are, each by its own name. */
const open = defineModel<boolean>({ required: true });
const emit = defineEmits<{ chosen: [] }>();
const { t } = useI18n();
const session = useSession();
const { known, current, choose, lookAround } = useLanguage();
onMounted(lookAround);
const says = ref("");

async function take(code: string) {
  if (!(await choose(code, session.person !== null))) {
    says.value = t("language.away");
    return;
  }
  says.value = "";
  open.value = false;
  emit("chosen");
}
</script>

<template>
  <ElDialog v-model="open" :title="t('language.title')" width="480px" append-to="#main">
    <div class="stack">
      <button
        v-for="one in known"
        :key="one.code"
        type="button"
        class="button"
        :class="{ primary: one.code === current }"
        :aria-pressed="one.code === current"
        :lang="one.code"
        :data-test="`language-${one.code}`"
        @click="take(one.code)">
        {{ one.name }}
      </button>
      <p role="alert" class="says">{{ says }}</p>
      <RouterLink :to="{ name: 'languages' }" class="link" data-test="languages" @click="open = false">{{
        t("language.lacks")
      }}</RouterLink>
    </div>
  </ElDialog>
</template>

<style scoped>
.says { color: var(--hold); font-weight: 560; } .says:empty { display: none; }
.link { color: var(--ink); min-height: 48px; display: inline-flex; align-items: center; }
</style>
