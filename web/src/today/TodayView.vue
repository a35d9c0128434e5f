<script setup lang="ts">
import { computed, ref } from "vue";
import { useI18n } from "vue-i18n";

import { useSession } from "../app/session";
import { useDefects, useSays, useYard } from "../data/queries";
import GradeMark from "../parts/GradeMark.vue";
import PageState from "../parts/PageState.vue";
import RolesAsked from "../people/RolesAsked.vue";
import MineSection from "./MineSection.vue";
import AskedCard from "./AskedCard.vue";
import NewsCard from "./NewsCard.vue";
import RepairList from "./RepairList.vue";
import { groupsOf, wordOf } from "./groups";

/** What waits for whoever is signed in, first; then what they answer for. The yard shows everything to everybody. */
const { t } = useI18n();
const session = useSession();
const { data: told, error } = useYard();
const { data: open } = useDefects(ref({}));
const { data: asked } = useDefects(ref({ asked: true }));
const { data: repaired } = useDefects(ref({ stage: "repaired" as const }));
const says = useSays(error);
const machines = computed(() => told.value?.yard.machines ?? []);
const stale = computed(() => Boolean(told.value?.stale || error.value));
const me = computed(() => session.person?.id ?? "");
const groups = computed(() => groupsOf(machines.value, me.value));

const defects = computed(() => open.value?.pages[0]?.defects ?? []);
const all = computed(() => open.value?.pages[0]?.count ?? 0);
/** What waits for a word of this person: a repair to be checked by another hand, a limit to be accepted. */
const waits = computed(() => {
  const of = asked.value?.pages[0]?.defects ?? [];
  const found = [...of, ...(repaired.value?.pages[0]?.defects ?? []), ...defects.value];
  return [...new Map(found.map((d) => [d.id, d])).values()].flatMap((d) => {
    const word = wordOf(d) ?? (of.some((x) => x.id === d.id) ? "asked" : null);
    return word ? [{ d, word }] : [];
  });
});
const repairs = computed(() => defects.value.filter((d) => d.may.includes("released")));
/** Where something waits for somebody who is on no machine, that comes before looking for one to drive. */
const mineFirst = computed(() => session.may("walk") && (groups.value.mine.length > 0 || !(repairs.value.length || waits.value.length)));
/** Who answers for more than the machine under them. */
const wide = computed(() => session.may("run-site") || repairs.value.length > 0);
</script>

<template>
  <div class="page stack today">
    <div>
      <h1>{{ t("today.title") }}</h1>
      <p class="quiet">{{ t("today.says") }}</p>
    </div>
    <p v-if="stale" class="card without" role="status">{{ t("connection.without") }}</p>
    <NewsCard />
    <AskedCard />
    <RolesAsked v-if="session.may('manage')" />
    <PageState v-if="!told" :says="says" waits />
    <template v-else>
      <MineSection v-if="mineFirst" :mine="groups.mine" :machines="machines" :me="me" />
      <section v-if="waits.length" class="stack" data-test="today-waits">
        <h2>{{ t("today.waits") }}</h2>
        <ul class="lines">
          <li v-for="{ d, word } in waits" :key="d.id" class="card">
            <GradeMark :mark="d.grade" :size="40" />
            <div class="grow">
              <h3>{{ d.machine_name }} · {{ d.place }}: {{ d.failure }}</h3>
              <p>{{ t(`today.word.${word}`) }}</p>
            </div>
            <RouterLink class="button primary" :to="{ name: 'defect', params: { machine: d.machine, defect: d.id } }">{{
              t("today.look")
            }}</RouterLink>
          </li>
        </ul>
      </section>
      <RepairList v-if="repairs.length" :defects="repairs" :machines="machines" :all="all" />
      <MineSection v-if="session.may('walk') && !mineFirst" :mine="groups.mine" :machines="machines" :me="me" />
      <template v-if="wide">
        <section class="stack" data-test="today-held">
          <h2>{{ groups.held.length ? t("today.held", { n: groups.held.length }) : t("today.noneHeld") }}</h2>
          <ul class="lines">
            <li v-for="m in groups.held" :key="m.machine.id" class="card">
              <GradeMark :mark="m.go" :size="40" />
              <div class="grow">
                <h3>
                  <RouterLink :to="{ name: 'machine', params: { machine: m.machine.id } }">{{ m.machine.name }}</RouterLink>
                </h3>
                <p>{{ m.why }}</p>
              </div>
              <RouterLink class="button" :to="{ name: 'machine-defects', params: { machine: m.machine.id } }">{{
                t("today.open", m.open_findings)
              }}</RouterLink>
            </li>
          </ul>
        </section>
        <section v-if="groups.limited.length" class="stack" data-test="today-limited">
          <h2>{{ t("today.limited", { n: groups.limited.length }) }}</h2>
          <p v-for="m in groups.limited" :key="m.machine.id" class="line">
            <GradeMark :mark="m.go" :size="30" /><b
              ><RouterLink :to="{ name: 'machine', params: { machine: m.machine.id } }">{{ m.machine.name }}</RouterLink></b
            ><span>{{ m.limits.join(" ") || m.why }}</span>
          </p>
        </section>
        <section class="stack" data-test="today-walks">
          <h2>{{ t("today.walks") }}</h2>
          <p v-for="m in groups.walking" :key="m.machine.id" class="line">
            <GradeMark :mark="m.go" :size="30" /><b
              ><RouterLink :to="{ name: 'machine', params: { machine: m.machine.id } }">{{ m.machine.name }}</RouterLink></b
            ><span>{{ t("yard.under", { name: m.walked_by, n: m.answered, of: m.planned }) }}</span>
          </p>
          <p v-if="groups.unwalked.length">{{ t("today.unwalked", groups.unwalked.length) }}</p>
          <p v-else>{{ t("today.allWalked") }}</p>
          <div class="chips">
            <RouterLink
              v-for="m in groups.unwalked"
              :key="m.machine.id"
              class="button"
              :to="{ name: 'machine', params: { machine: m.machine.id } }"
              ><GradeMark :mark="m.go" :size="26" silent />{{ m.machine.name }}</RouterLink
            >
          </div>
        </section>
      </template>
      <div class="row wrap">
        <RouterLink class="button all" to="/">{{ t("today.yard", machines.length) }}</RouterLink>
        <RouterLink class="button plain" to="/sessions">{{ t("sessions.title") }}</RouterLink>
      </div>
    </template>
  </div>
</template>

<style scoped>
.today { gap: 22px; }
.without { border-left: 5px solid var(--hold); }
.lines { list-style: none; margin: 0; padding: 0; display: grid; gap: 10px; }
.lines li { display: flex; gap: 16px; align-items: center; }
.grow { flex: 1; min-width: 0; }
.line { display: flex; gap: 12px; align-items: center; }
.line b { flex: none; }
.all { align-self: flex-start; }
@media (max-width: 700px) { .lines li { flex-wrap: wrap; } .grow { min-width: 200px; } .lines .button { width: 100%; } .line { align-items: flex-start; } .all { align-self: stretch; } }
</style>
