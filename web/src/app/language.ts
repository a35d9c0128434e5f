import { useStorage } from "@vueuse/core";
import { computed, nextTick, ref } from "vue";

import { call, type Schemas } from "../api/client";
import { store } from "../parts/device";
import { i18n, pluralForm } from "./i18n";

type Language = Schemas["LanguageOut"];
type Texts = typeof i18n.global.messages.value.en;
const RIGHT_TO_LEFT = new Set(["ar", "fa", "he", "ur"]);
const ENGLISH: Language = { code: "en", name: "English", tag: "" };

/** What the person chose on this device; empty: nobody chose yet, then the device's own language. */
const chosen = useStorage("jutrel-language", "");
/** The languages that can be chosen, as the server told them last. */
const known = ref<Language[]>([ENGLISH]);
/** The language in which the pages speak now. */
const current = ref("en");

/** A figure as the language writes it. */
export const figure = (value: number, digits = 1): string =>
  new Intl.NumberFormat(locale.value, { minimumFractionDigits: digits, maximumFractionDigits: digits, useGrouping: false }).format(
    Number(value.toFixed(digits)) + 0,
  ); // no -0.0

/** For times and figures: English as it is written on sites, all others as they are. */
export const locale = computed(() => (current.value === "en" ? "en-GB" : current.value));

function speak(code: string, texts: Texts | null) {
  const g = i18n.global;
  if (texts) {
    const rules = g.pluralRules as Record<string, (n: number, forms: number) => number>;
    rules[code] = (n, forms) => pluralForm(code, n, forms);
    g.setLocaleMessage(code as "en", texts);
  }
  (g.locale as unknown as { value: string }).value = code;
  current.value = code;
  document.documentElement.lang = code;
  document.documentElement.dir = RIGHT_TO_LEFT.has(code.split("-")[0]!) ? "rtl" : "ltr";
}

/** A language's texts: as they are kept on the device, else from the server, which then keeps them here. */
async function textsOf(one: Language): Promise<Texts | null> {
  const key = `texts/${one.code}`;
  const kept = await store.keptAs<{ tag: string; texts: Texts }>(key).catch(() => null);
  if (kept && (kept.tag === one.tag || !one.tag)) return kept.texts;
  if (!one.tag) return null; // the server has not told of it yet
  const reply = await call("get", "/api/languages/{code}/pages/{tag}", { params: { path: { code: one.code, tag: one.tag } } });
  if (!reply.ok) return kept?.texts ?? null;
  const texts = reply.data as Texts;
  await store.kept.put({ key, value: { tag: one.tag, texts } }).catch(() => undefined);
  return texts;
}

/** Ask the server which languages there are. */
async function ask(): Promise<boolean> {
  const reply = await call("get", "/api/languages");
  if (reply.ok) known.value = reply.data;
  return reply.ok;
}

/** Speak a language from now on, if its texts can be had. */
async function use(code: string): Promise<boolean> {
  if (code === current.value) return true;
  if (code === "en") {
    speak("en", null);
    return true;
  }
  const told = () => known.value.find((l) => l.code === code);
  let texts = await textsOf(told() ?? { code, name: code, tag: "" });
  if (!texts && !told() && (await ask())) {
    const one = told();
    texts = one ? await textsOf(one) : null;
  }
  if (texts) speak(code, texts);
  return texts !== null;
}

const wanted = () =>
  chosen.value || known.value.find((l) => l.code === navigator.language || l.code === navigator.language.split("-")[0])?.code || "en";

/** Ask which languages there are; what is spoken may have new texts since. */
async function lookAround(): Promise<void> {
  if (!(await ask())) return;
  const code = wanted();
  const one = known.value.find((l) => l.code === code);
  if (code === "en" || !one) return void (await use(code));
  // Also what is spoken already: its texts may be others since they were kept here.
  const texts = await textsOf(one);
  if (texts) speak(code, texts);
}

/** Before the first page: what is kept on the device is spoken at once, the server is asked in the meantime. */
export async function beginSpeaking(): Promise<void> {
  const english = chosen.value ? chosen.value === "en" : navigator.language.startsWith("en");
  if (english) return; // it is here already: one question less before the first page
  const asked = lookAround();
  if (chosen.value) await use(chosen.value);
  if (current.value === "en") await asked;
}

/** The language of this device's pages, and choosing another one. */
export function useLanguage() {
  return {
    current,
    known,
    chosen,
    lookAround,
    /** Choose a language; with somebody signed in the server notes it for them. */
    async choose(code: string, signedIn: boolean) {
      if (!(await use(code))) return false;
      chosen.value = code;
      await nextTick();
      if (signedIn) void call("put", "/api/session/language", { body: { language: code } });
      return true;
    },
    /** Who signs in reads their own language, unless another was chosen here just before. */
    async greet(own: string, justChosen: boolean) {
      if (own && !justChosen && own !== current.value && (await use(own))) {
        chosen.value = own;
        void lookAround();
      } else if (current.value !== own && (justChosen || current.value !== "en"))
        void call("put", "/api/session/language", { body: { language: current.value } });
    },
  };
}
