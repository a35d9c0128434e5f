import i18n from "@intlify/eslint-plugin-vue-i18n";
import vue from "eslint-plugin-vue";
import globals from "globals";
import ts from "typescript-eslint";

export default [
  { ignores: ["dist/**", "src/api/schema.d.ts", "node_modules/**"] },
  ...ts.configs.recommended,
  ...vue.configs["flat/recommended"],
  {
    files: ["**/*.vue", "**/*.ts"],
    languageOptions: { globals: globals.browser, parserOptions: { parser: ts.parser } },
    plugins: { "@intlify/vue-i18n": i18n },
    settings: {
      "vue-i18n": {
        localeDir: {
          pattern: "../src/jutrel/catalog/texts/en/*.json",
          localeKey: "path",
          localePattern: /^.*\/(?<locale>[a-z]+)\/interface\.json$/,
        },
        messageSyntaxVersion: "^11.0.0",
      },
    },
    rules: {
      // Every string that a person sees goes through the translation files.
      "@intlify/vue-i18n/no-raw-text": ["error", { ignorePattern: "^[\\s·–—→←×?/°%:.+−…]*$" }],
      "@intlify/vue-i18n/no-missing-keys": "error",
      "vue/max-attributes-per-line": "off",
      "vue/singleline-html-element-content-newline": "off",
      "vue/html-self-closing": "off",
      "vue/html-indent": "off",
      "vue/html-closing-bracket-newline": "off",
      "vue/first-attribute-linebreak": "off",
      "vue/multiline-html-element-content-newline": "off",
      "vue/attributes-order": "off",
      "vue/require-default-prop": "off",
    },
  },
];
