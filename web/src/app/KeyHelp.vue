<script setup lang="ts">
import { ElDialog } from "element-plus";
import { useI18n } from "vue-i18n";

const open = defineModel<boolean>({ required: true });
const { t } = useI18n();
const keys = ["next", "prev", "sound", "defect", "unseen", "more", "undo", "on", "help"] as const;
</script>

<template>
  <ElDialog v-model="open" :title="t('keys.title')" width="560px" append-to="#main">
    <dl>
      <template v-for="k in keys" :key="k">
        <dt>
          <kbd>{{ t(`keys.${k}.key`) }}</kbd>
        </dt>
        <dd>{{ t(`keys.${k}.does`) }}</dd>
      </template>
    </dl>
  </ElDialog>
</template>

<style scoped>
dl { display: grid; grid-template-columns: auto 1fr; gap: 10px 20px; margin: 0; font-size: 18px; color: var(--ink); }
dd { margin: 0; }
kbd { font: inherit; font-weight: 650; border: 1.5px solid var(--ink); border-radius: 8px; padding: 2px 10px; }
</style>
