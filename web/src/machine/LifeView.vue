<script setup lang="ts">
import { refDebounced } from "@vueuse/core";
import { computed, ref, watch } from "vue";
import { useI18n } from "vue-i18n";
import { useRoute, useRouter } from "vue-router";

import type { Schemas } from "../api/client";
import { useLife, useSays } from "../data/queries";
import PageState from "../parts/PageState.vue";
import LifeList from "./LifeList.vue";

/** All that a machine's log tells of its life, searched, by what it is about, as far back as it goes; printed as shown. */
const props = defineProps<{ machine: string }>();
const { t } = useI18n();
const router = useRouter();
const route = useRoute();
const GROUPS = ["inspections", "work", "defects", "happened", "filled", "file"] as const satisfies readonly Schemas["LifeGroup"][];
const group = ref(GROUPS.find((g) => g === route.query.group) ?? null);
const words = ref(typeof route.query.words === "string" ? route.query.words : "");
const searched = refDebounced(words, 250);
const asked = computed(() => ({
  ...(group.value ? { group: [group.value] } : {}),
  ...(searched.value.trim() ? { words: searched.value.trim() } : {}),
}));
watch([group, searched], () =>
  router.replace({ query: { ...(group.value ? { group: group.value } : {}), ...(searched.value ? { words: searched.value } : {}) } }),
);
const { data, error, hasNextPage, isFetchingNextPage, fetchNextPage } = useLife(props.machine, asked);
const says = useSays(error);
const events = computed(() => data.value?.pages.flatMap((p) => p.events) ?? []);
const print = () => window.print();
</script>

<template>
  <div class="page stack">
    <div class="row spread wrap">
      <h1>{{ t("life.title", { name: data?.pages[0]?.name ?? machine.toUpperCase() }) }}</h1>
      <div class="row wrap tools">
        <button type="button" class="button" data-test="print-life" @click="print">{{ t("life.print") }}</button>
        <RouterLink class="button plain" :to="{ name: 'machine', params: { machine } }">{{ t("run.file") }}</RouterLink>
      </div>
    </div>
    <p class="quiet">{{ t("life.says") }}</p>
    <input
      v-model="words"
      class="tools search"
      type="search"
      :placeholder="t('life.search')"
      :aria-label="t('life.search')"
      data-test="life-words" />
    <div class="chips tools" role="group" :aria-label="t('life.groups')">
      <button type="button" class="button" :class="{ chosen: !group }" :aria-pressed="!group" data-test="life-all" @click="group = null">
        {{ t("life.all") }}
      </button>
      <button
        v-for="g in GROUPS"
        :key="g"
        type="button"
        class="button"
        :class="{ chosen: group === g }"
        :aria-pressed="group === g"
        :data-test="`life-${g}`"
        @click="group = g">
        {{ t(`life.group.${g}`) }}
      </button>
    </div>
    <PageState :says="says" :waits="!data" :lines="6" :nothing="data && !events.length && !hasNextPage ? t('life.none') : undefined" />
    <LifeList v-if="events.length" :machine="machine" :events="events" />
    <button
      v-if="hasNextPage"
      type="button"
      class="button tools"
      :disabled="isFetchingNextPage"
      data-test="life-older"
      @click="fetchNextPage()">
      {{ isFetchingNextPage ? t("wait") : t("life.older") }}
    </button>
  </div>
</template>

<style scoped>
.search { min-height: 56px; border: 2px solid var(--ink); border-radius: 12px; padding: 0 14px; font: inherit; background: var(--card); color: var(--ink); }
@media (max-width: 700px) { .chips { flex-wrap: nowrap; overflow-x: auto; padding-bottom: 4px; } .chips .button { flex: none; } }
@media print { .tools { display: none; } }
</style>
