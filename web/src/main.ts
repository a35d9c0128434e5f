import "@fontsource-variable/archivo/wght.css";
import "element-plus/theme-chalk/base.css";
import "element-plus/theme-chalk/el-overlay.css";
import "element-plus/theme-chalk/el-dialog.css";
import "element-plus/theme-chalk/el-drawer.css";
import "element-plus/theme-chalk/el-input.css";
import "element-plus/theme-chalk/el-input-number.css";
import "element-plus/theme-chalk/el-switch.css";
import "element-plus/theme-chalk/el-select.css";
import "element-plus/theme-chalk/el-option.css";
import "element-plus/theme-chalk/el-popper.css";
import "element-plus/theme-chalk/el-scrollbar.css";
import "element-plus/theme-chalk/el-table.css";
import "element-plus/theme-chalk/el-notification.css";
import "./app/theme.css";

import { createPinia } from "pinia";
import { createApp } from "vue";

import App from "./app/App.vue";
import { bringEnglish, i18n } from "./app/i18n";
import { beginSpeaking } from "./app/language";
import { bringPages } from "./app/pages";
import { router } from "./app/router";
import { keepShell } from "./app/shell";

keepShell(router);
bringPages(router);
const app = createApp(App).use(createPinia()).use(i18n).use(router);
// Only pages with controls need their words, and most of what the pages say.
const untaught = router.beforeResolve(async (to) => {
  if (to.meta.open) return;
  const [controls] = await Promise.all([import("./app/controls"), bringEnglish()]);
  untaught(); // not before: what could not be brought is asked for again
  controls.teachControls(app);
});
void beginSpeaking().finally(() => app.mount("#app"));
