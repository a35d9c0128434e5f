<script setup lang="ts">
import { computed } from "vue";
import { useI18n } from "vue-i18n";

import { useSession } from "../app/session";
import { dayAndTime } from "../app/times";
import GradeMark from "../parts/GradeMark.vue";
import { useNext } from "../yard/useNext";

/** For who comes by the code on a machine's label: it may be started already, or it must not be. */
const props = defineProps<{ machine: string }>();
const { t } = useI18n();
const session = useSession();
const { now, stale, next, to } = useNext(computed(() => props.machine));
</script>

<template>
  <section v-if="now && !stale && (next === 'start' || now.go === 'held')" class="card stands" data-test="stands-now">
    <GradeMark :mark="now.go" :size="56" silent />
    <div class="grow">
      <h2>{{ t(`mark.${now.go}`) }}</h2>
      <p>{{ now.why }}</p>
      <p v-for="l in now.limits" :key="l">
        <b>{{ l }}</b>
      </p>
      <p v-if="next === 'start' && now.valid_until" class="quiet">
        {{ t("today.until", { at: dayAndTime(now.valid_until, session.zone) }) }}
      </p>
    </div>
    <RouterLink v-if="next === 'start'" class="button primary" :to="to" data-test="stands-next">{{ t("run.link") }}</RouterLink>
    <RouterLink v-else-if="next === 'open'" class="button primary" :to="to" data-test="stands-next">{{ t("file.holds") }}</RouterLink>
    <RouterLink v-else class="button" :to="{ name: 'machine', params: { machine } }" data-test="stands-next">{{
      t("run.file")
    }}</RouterLink>
  </section>
</template>

<style scoped>
.stands { display: flex; gap: 18px; align-items: center; border: 2px solid var(--ink); margin: 12px 0; }
.grow { flex: 1; min-width: 0; }
.button { min-height: 64px; }
@media (max-width: 700px) { .stands { flex-wrap: wrap; gap: 10px 14px; } .button { width: 100%; } }
</style>
