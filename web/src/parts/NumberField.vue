<script setup lang="ts">
import { ElInputNumber } from "element-plus";
import { onMounted, useAttrs, useTemplateRef } from "vue";
import { useI18n } from "vue-i18n";

/** A field for a number, whose two buttons say of what they make less and more. */
defineOptions({ inheritAttrs: false });
const { t } = useI18n();
const attrs = useAttrs();
const field = useTemplateRef<{ $el: HTMLElement }>("field");
onMounted(() => {
  const [less, more] = field.value?.$el.querySelectorAll("[role=button]") ?? [];
  less?.setAttribute("aria-label", t("element.lessOf", { of: String(attrs["aria-label"] ?? "") }));
  more?.setAttribute("aria-label", t("element.moreOf", { of: String(attrs["aria-label"] ?? "") }));
});
</script>

<template><ElInputNumber ref="field" v-bind="$attrs" /></template>
