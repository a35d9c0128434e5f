<script setup lang="ts">
import { computed, ref } from "vue";
import { useI18n } from "vue-i18n";

import { call, type Schemas } from "../api/client";
import { useSession } from "../app/session";
import { day } from "../app/times";
import { uuid7 } from "../parts/device";
import FileButton from "../parts/FileButton.vue";

/** How this checkpoint looks when it is sound: the site's own picture, which a supervisor or mechanic takes. */
const props = defineProps<{
  machine: string;
  model: string;
  checkpoint: string;
  name: string;
  good: Schemas["GoodOut"][];
  mayEdit: boolean;
}>();
const { t } = useI18n();
const session = useSession();
/** What this page did since the walk was fetched; null: nothing. */
const changed = ref<Schemas["GoodOut"][] | null>(null);
const whole = ref(true);
const says = ref("");
const shown = computed(() => (changed.value ?? props.good).find((g) => g.checkpoint === props.checkpoint) ?? null);

function done(reply: Awaited<ReturnType<typeof put>>) {
  says.value = reply.ok ? "" : (reply.problem?.detail ?? t("connection.awayLong"));
  if (reply.ok) changed.value = reply.data;
}
const path = () => ({ machine: props.machine, checkpoint: props.checkpoint });
const put = (blob: Blob) =>
  call("put", "/api/machines/{machine}/good/{checkpoint}", {
    params: { path: path(), query: { photo: uuid7(), whole_model: whole.value } },
    body: blob as unknown as string,
    bodySerializer: (b: unknown) => b as Blob,
    headers: { "content-type": "image/jpeg" },
  });
const take = () =>
  call("delete", "/api/machines/{machine}/good/{checkpoint}", {
    params: { path: path(), query: { entry: uuid7(), whole_model: shown.value!.whole_model } },
  });
</script>

<template>
  <figure v-if="shown" class="good" data-test="good">
    <img :src="`/api/photos/${shown.photo}`" :alt="t('good.of', { name })" loading="lazy" />
    <figcaption class="quiet">
      {{ t(shown.whole_model ? "good.model" : "good.unit", { by: shown.by, at: day(shown.at, session.zone), model }) }}
    </figcaption>
  </figure>
  <div v-if="mayEdit" class="stack">
    <label class="row"
      ><input v-model="whole" type="checkbox" data-test="good-whole" /><span>{{ t("good.whole", { model }) }}</span></label
    >
    <div class="row wrap">
      <FileButton :test="`good-${checkpoint}`" mark @file="async (f) => done(await put(f))">{{
        t(shown ? "good.another" : "good.take")
      }}</FileButton>
      <button v-if="shown" type="button" class="button" data-test="good-away" @click="async () => done(await take())">
        {{ t("good.away") }}
      </button>
    </div>
    <p v-if="says" role="alert" class="bad">{{ says }}</p>
  </div>
</template>

<style scoped>
.good { margin: 0; } .good img { display: block; max-width: min(420px, 100%); max-height: 260px; border-radius: 8px; border: 3px solid var(--sound); }
.bad { color: var(--hold); } input { width: 28px; height: 28px; flex: none; } label { min-height: var(--target); }
</style>
