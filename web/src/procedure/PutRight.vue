<script setup lang="ts">
import { ElInput } from "element-plus";
import { computed, ref } from "vue";
import { useI18n } from "vue-i18n";

import { useSession } from "../app/session";
import { newEntry, uuid7, type What } from "../parts/device";
import { useOutbox } from "../parts/outbox";
import type { RunNow, UseRun } from "./useRun";

/** Some cures need power: who may starts a held machine for one, by name, for an hour; never to work. */
const props = defineProps<{ run: RunNow; r: UseRun }>();
const { t } = useI18n();
const session = useSession();
const outbox = useOutbox();
type Cure = Extract<What, { kind: "putting-right" }>["cure"];
const open = ref(false);
const cure = ref<Cure | "">("");
const place = ref("");
const how = ref("");
const clear = ref(false);
const says = ref("");
const holding = computed(() => props.run.gate.holding);
const yours = computed(() => holding.value.every((h) => h.yours));
const ALL = ["lift-off", "take-up", "lower", "find", "move"] as const;
const cures = computed<Cure[]>(() =>
  ALL.filter((c) => (c === "move" ? holding.value.every((h) => h.moved) : holding.value.some((h) => h.cures.includes(c)))),
);
const whole = computed(
  () => cure.value !== "" && clear.value && how.value.trim().length > 2 && (cure.value !== "move" || place.value.trim().length > 2),
);

async function say() {
  if (!whole.value || cure.value === "") return;
  const what = {
    kind: "putting-right" as const,
    cure: cure.value,
    how: how.value.trim(),
    clear: clear.value,
    place: cure.value === "move" ? place.value.trim() : "",
  };
  const entry = newEntry(
    props.run.machine.id,
    `defect.${uuid7()}`,
    session.person!.id,
    what,
    holding.value.flatMap((h) => h.entries),
  );
  if (!(await outbox.post(entry))) return void (says.value = t("walk.deviceFullText"));
  await outbox.flush();
  if (!(await outbox.answeredFor(entry.id))) return;
  const no = outbox.refused.find((e) => e.id === entry.id);
  says.value = no?.says ?? (outbox.away ? t("connection.awayLong") : "");
  if (no) await outbox.letGo(no.id);
  await props.r.refresh();
}
</script>

<template>
  <section class="card stack" data-test="put-right">
    <h2 class="h3">{{ t("cure.title") }}</h2>
    <p class="quiet">
      {{
        t(yours ? "cure.says" : "cure.notYours", {
          names: holding
            .filter((h) => !h.yours)
            .map((h) => h.name)
            .join(", "),
        })
      }}
    </p>
    <p v-if="run.gate.no_cure" role="alert" data-test="no-cure">
      <b>{{ run.gate.no_cure }}</b>
    </p>
    <button v-if="yours && !open" type="button" class="button" data-test="put-right-open" @click="open = true">{{ t("cure.open") }}</button>
    <form v-if="yours && open" class="stack" @submit.prevent="say">
      <div class="cures" role="group" :aria-label="t('cure.what')">
        <button
          v-for="c in cures"
          :key="c"
          type="button"
          class="button"
          :class="{ chosen: cure === c }"
          :aria-pressed="cure === c"
          :data-test="`cure-${c}`"
          @click="cure = c">
          {{ t(`cure.of.${c}`) }}
        </button>
      </div>
      <ElInput
        v-if="cure === 'move'"
        v-model="place"
        maxlength="200"
        :placeholder="t('cure.place')"
        :aria-label="t('cure.place')"
        data-test="cure-place" />
      <ElInput
        v-model="how"
        type="textarea"
        :rows="2"
        maxlength="2000"
        :placeholder="t('cure.how')"
        :aria-label="t('cure.how')"
        data-test="cure-how" />
      <button
        type="button"
        class="button clear"
        :class="{ chosen: clear }"
        :aria-pressed="clear"
        data-test="cure-clear"
        @click="clear = !clear">
        <svg viewBox="0 0 24 24" width="30" height="30" aria-hidden="true">
          <rect x="2" y="2" width="20" height="20" rx="4" />
          <path v-if="clear" d="M6 12l4 5 8-10" /></svg
        ><span>{{ t("cure.clear") }}</span>
      </button>
      <p role="alert">{{ says }}</p>
      <div class="row wrap">
        <button type="submit" class="button primary" :disabled="!whole" data-test="cure-say">{{ t("cure.say") }}</button><button
          type="button"
          class="button plain"
          @click="open = false">
          {{ t("defects.cancel") }}
        </button>
      </div>
    </form>
  </section>
</template>

<style scoped>
.cures { display: grid; grid-template-columns: repeat(auto-fill, minmax(min(220px, 100%), 1fr)); gap: 10px; } .chosen { background: var(--ink); color: var(--paper); } p { margin: 0; } .stack > .button { align-self: flex-start; }
.clear { justify-content: flex-start; text-align: left; gap: 14px; white-space: normal; font-weight: 460; } .clear svg { flex: none; fill: none; stroke: currentColor; stroke-width: 2.4; }
</style>
