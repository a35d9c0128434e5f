import { localeContextKey } from "element-plus/es/hooks/use-locale/index.mjs";
import { computed, type App } from "vue";

import { i18n } from "./i18n";

/** The words of the controls themselves, which mostly those hear who have the page read aloud. */
export function teachControls(app: App) {
  const { t, locale } = i18n.global;
  app.provide(
    localeContextKey,
    computed(() => ({
      name: locale.value,
      el: {
        inputNumber: { decrease: t("element.less"), increase: t("element.more") },
        dialog: { close: t("element.close") },
        drawer: { close: t("element.close") },
        select: { noMatch: t("element.none"), noData: t("element.none"), loading: t("wait"), placeholder: t("element.choose") },
        table: { emptyText: t("element.none") },
        notification: { close: t("element.close") },
      },
    })),
  );
}
