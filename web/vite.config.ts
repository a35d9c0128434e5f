import { existsSync, readFileSync, readdirSync, writeFileSync } from "node:fs";
import { extname, join } from "node:path";
import { brotliCompressSync, constants, gzipSync } from "node:zlib";

import vue from "@vitejs/plugin-vue";
import { defineConfig, type Plugin } from "vite";
import { VitePWA } from "vite-plugin-pwa";

const TEXT = [".js", ".css", ".html", ".svg", ".json", ".webmanifest"];
const WORTH_IT = 700;

/** Beside each text file of the build the same one compressed, so that nobody compresses while a tablet waits. */
function compressed(): Plugin {
  let folder = "";
  return {
    name: "compressed",
    apply: "build",
    configResolved: (config) => void (folder = join(config.root, config.build.outDir)),
    closeBundle() {
      for (const file of readdirSync(folder, { recursive: true, encoding: "utf8" })) {
        if (!TEXT.includes(extname(file))) continue;
        const data = readFileSync(join(folder, file));
        if (data.length < WORTH_IT) continue;
        writeFileSync(join(folder, `${file}.br`), brotliCompressSync(data, { params: { [constants.BROTLI_PARAM_QUALITY]: 11 } }));
        writeFileSync(join(folder, `${file}.gz`), gzipSync(data, { level: 9 }));
      }
    },
  };
}

const TEXTS = join(import.meta.dirname, "../src/jutrel/catalog/texts");
/** What is said before anybody is signed in; the rest of the English texts is brought with the first page after it. */
const FIRST = ["name", "app", "wait", "yes", "no", "caution", "unit", "shell", "language", "role", "connection", "signIn"];

function english(): Plugin {
  return {
    name: "english",
    resolveId: (id) => (id.startsWith("virtual:english-") ? `\0${id}` : null),
    load(id) {
      if (!id.startsWith("\0virtual:english-")) return null;
      const file = join(TEXTS, "en/interface.json");
      this.addWatchFile(file);
      const all = JSON.parse(readFileSync(file, "utf8")) as Record<string, unknown>;
      return `export default ${JSON.stringify(Object.fromEntries(Object.entries(all).filter(([k]) => FIRST.includes(k) === id.endsWith("first"))))}`;
    },
  };
}

const escaped = (s: string) => s.replaceAll("&", "&amp;").replaceAll("<", "&lt;");

/** The emergency cards once more as a page without any script, in every language there is: for when nothing else loads. */
function emergencyPage(): Plugin {
  return {
    name: "emergency-page",
    apply: "build",
    generateBundle() {
      const parts = readdirSync(TEXTS)
        .filter((code) => existsSync(join(TEXTS, code, "interface.json")))
        .map((code) => {
          const { emergency } = JSON.parse(readFileSync(join(TEXTS, code, "interface.json"), "utf8")) as {
            emergency: Record<string, string | { title: string; steps: string }>;
          };
          const cards = Object.values(emergency)
            .filter((c) => typeof c !== "string")
            .map(
              (c) =>
                `<details><summary>${escaped(c.title)}</summary><ol>${c.steps
                  .split("/")
                  .map((s) => `<li>${escaped(s.trim())}</li>`)
                  .join("")}</ol></details>`,
            );
          return `<section lang="${code}"><h1>${escaped(String(emergency.title))}</h1>${cards.join("")}</section>`;
        });
      const style =
        "body{font:20px/1.4 sans-serif;margin:16px;max-width:900px;color:#0f2f38;background:#f4f1e8}summary{font-weight:700;font-size:24px;padding:16px 0;border-top:2px solid #9c1c16;cursor:pointer}li{padding:4px 0}a{color:#0f4c5c}";
      this.emitFile({
        type: "asset",
        fileName: "cards.html",
        source: `<!doctype html><html lang="en"><head><meta charset="utf-8"><meta name="viewport" content="width=device-width,initial-scale=1"><title>Jutrel</title><style>${style}</style></head><body>${parts.join("")}<p><a href="/">Jutrel</a></p></body></html>`,
      });
    },
  };
}

export default defineConfig({
  plugins: [
    vue(),
    // The shell starts with no network. A new one takes over when the last page of the old one is closed: never in a walk.
    VitePWA({
      injectRegister: null,
      registerType: "prompt",
      manifest: {
        name: "Jutrel",
        short_name: "Jutrel",
        description: "Walk round an earthmoving machine, read it, grade it, record it.",
        start_url: "/",
        display: "standalone",
        background_color: "#f7f4ec",
        theme_color: "#10333d",
        icons: [
          { src: "/icon-192.png", sizes: "192x192", type: "image/png" },
          { src: "/icon-512.png", sizes: "512x512", type: "image/png" },
          { src: "/icon-512.png", sizes: "512x512", type: "image/png", purpose: "maskable" },
        ],
      },
      workbox: {
        globPatterns: ["**/*.{js,css,html,svg,woff2,png,webmanifest}"],
        navigateFallback: "/index.html",
        navigateFallbackDenylist: [/^\/api\//],
        // What bears a hash never changes.
        runtimeCaching: [
          { urlPattern: /\/api\/drawings\//, handler: "CacheFirst", options: { cacheName: "drawings", expiration: { maxEntries: 200 } } },
        ],
      },
    }),
    english(),
    emergencyPage(),
    compressed(),
  ],
  build: {
    outDir: "dist",
    emptyOutDir: true,
    target: "es2022",
    chunkSizeWarningLimit: 900,
    // One style sheet: it is small once compressed, and a tablet on a weak network counts requests.
    cssCodeSplit: false,
    rolldownOptions: {
      output: {
        codeSplitting: {
          groups: [
            {
              name: "frame",
              test: /node_modules\/(vue|@vue|pinia|vue-router|vue-i18n|@intlify|dexie|openapi-fetch|@vueuse)\/|plugin-vue:export-helper|src\/(app\/(?!KeyHelp|theme|LanguageDialog|LanguagesView|SetupView|controls)|api|parts\/(device|clock|outbox))/,
            },
          ],
        },
      },
    },
  },
  define: { __VUE_I18N_LEGACY_API__: false, __INTLIFY_PROD_DEVTOOLS__: false },
});
