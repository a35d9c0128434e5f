<script setup lang="ts">
import { computed, ref, toRef } from "vue";
import { useI18n } from "vue-i18n";

import { dayAndTime } from "../app/times";
import { useSession } from "../app/session";
import { useNeeds } from "../data/queries";
import JudgementLine from "../parts/JudgementLine.vue";
import { told } from "./units";

/** What the shift ahead needs: enough or not, what to order tonight, what the cold asks for. */
const props = defineProps<{ machine: string; hours: number }>();
const { t } = useI18n();
const session = useSession();
const work = ref<"light" | "medium" | "hard">("medium");
const { data } = useNeeds(props.machine, toRef(props, "hours"), work);
const order = computed(() =>
  (data.value ?? []).filter((n) => (n.more.order ?? 0) > 1).map((n) => ({ title: n.title, litres: n.more.order! })),
);
</script>

<template>
  <section class="card stack" data-test="needs">
    <div class="row spread wrap">
      <h2>{{ t("needs.title") }}</h2>
      <RouterLink class="button" :to="{ name: 'instruments' }">{{ t("instrument.title") }}</RouterLink>
    </div>
    <div class="chips" role="group" :aria-label="t('needs.work')">
      <button
        v-for="w in ['light', 'medium', 'hard'] as const"
        :key="w"
        type="button"
        class="button"
        :class="{ chosen: work === w }"
        :aria-pressed="work === w"
        @click="work = w">
        {{ t(`needs.${w}`) }}
      </button>
    </div>
    <div class="rows">
      <div v-for="n in data" :key="n.key" :data-test="`need-${n.key}`" class="need">
        <h3>{{ n.title }}</h3>
        <template v-if="n.judgement"
          ><JudgementLine :judgement="n.judgement" />
          <p v-if="n.at" class="quiet">{{ t("needs.read", { at: dayAndTime(n.at, session.zone) }) }}</p></template
        >
        <p v-else class="quiet">{{ n.lacks }}</p>
      </div>
    </div>
    <p v-if="order.length">
      <b>{{ t("needs.order") }}</b> {{ order.map((o) => `${o.title}: ${told(o.litres, "L", null)}`).join("; ") }}
    </p>
  </section>
</template>

<style scoped>
.rows { display: grid; grid-template-columns: repeat(auto-fill, minmax(min(320px, 100%), 1fr)); gap: 16px 28px; } .need { display: grid; gap: 4px; align-content: start; }
</style>
