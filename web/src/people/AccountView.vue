<script setup lang="ts">
import { computed, ref } from "vue";
import { useI18n } from "vue-i18n";

import { useSession } from "../app/session";
import { dayAndTime } from "../app/times";
import { useAccount, useSays } from "../data/queries";
import PageState from "../parts/PageState.vue";

const { t } = useI18n();
const session = useSession();
/** Only lines before this one; none: the newest. */
const before = ref<number | undefined>();
const { data, error } = useAccount(before);
const says = useSays(error);
const lines = computed(() => data.value?.lines ?? []);
const earlier = computed(() => (lines.value.at(-1)?.seq ?? 1) > 1);
/** What a line says besides whom it is about. */
const details = (d: Record<string, string>, about: string) =>
  d.from && d.to
    ? `${d.from} → ${d.to}`
    : Object.values(d)
        .filter((v) => v && v !== about)
        .join(", ");
</script>

<template>
  <div class="page stack">
    <div class="row spread wrap">
      <h1>{{ t("account.title") }}</h1>
      <a class="button plain" href="/api/account.csv" download data-test="account-csv">{{ t("account.csv") }}</a>
    </div>
    <p class="quiet">{{ t("account.says") }}</p>
    <PageState :says="says" :waits="!data" :nothing="data && !lines.length ? t('account.none') : undefined" />
    <p v-if="data && !data.whole" class="card broken" role="alert">{{ t("account.broken") }}</p>
    <ol v-else class="lines" data-test="account-lines">
      <li v-for="l in lines" :key="l.seq" class="card">
        <span class="quiet when">{{ dayAndTime(l.at, session.zone) }}</span>
        <span
          ><b>{{ l.says }}</b> {{ l.about
          }}<template v-if="details(l.details, l.about)"
            ><br /><span class="quiet">{{ details(l.details, l.about) }}</span></template
          ></span
        >
        <span class="who">{{ l.by ? t("account.by", { name: l.by }) : t("account.console") }}</span>
      </li>
    </ol>
    <div class="row">
      <button v-if="earlier" type="button" class="button" @click="before = lines.at(-1)!.seq">{{ t("account.more") }}</button><button
        v-if="before"
        type="button"
        class="button plain"
        @click="before = undefined">
        {{ t("account.newest") }}
      </button>
    </div>
  </div>
</template>

<style scoped>
.lines { list-style: none; margin: 0; padding: 0; display: grid; gap: 8px; }
.lines li { display: grid; grid-template-columns: 150px 1fr 200px; gap: 16px; align-items: baseline; padding: 12px 16px; }
.who { text-align: right; font-weight: 560; }
.broken { border-left: 5px solid var(--hold); font-weight: 620; }
@media (max-width: 800px) { .lines li { grid-template-columns: 1fr; gap: 2px; } .who { text-align: left; } }
</style>
