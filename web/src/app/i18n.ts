import { ref } from "vue";
import { createI18n } from "vue-i18n";

import en from "virtual:english-first";

const ORDER = ["zero", "one", "two", "few", "many", "other"] as const;

/** Which of a text's forms a number takes. Up to three forms: none, one, more; beyond that the language's own, after one for none. */
export function pluralForm(language: string, n: number, forms: number): number {
  if (forms <= 2) return n === 1 ? 0 : forms - 1;
  if (forms === 3) return Math.min(Math.abs(n), 2);
  if (n === 0) return 0;
  const rules = new Intl.PluralRules(language);
  const own = ORDER.filter((c) => rules.resolvedOptions().pluralCategories.includes(c));
  return Math.min(1 + own.indexOf(rules.select(n)), forms - 1);
}

/** English is in the bundle, at first what the sign-in page says, and stands in for what another language has no words for; the others are brought by `language.ts`. */
export const i18n = createI18n({
  legacy: false,
  locale: "en",
  fallbackLocale: "en",
  messages: { en },
  missingWarn: false,
  fallbackWarn: false,
});

/** The English that is not needed to sign in: it stands in for what another language lacks, too. */
export async function bringEnglish() {
  i18n.global.mergeLocaleMessage("en", (await import("virtual:english-rest")).default);
  whole.value = true;
}
/** Whether all of it is here: what says more than the sign-in page does waits for that. */
export const whole = ref(false);
