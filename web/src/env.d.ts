declare module "*.vue" {
  import type { DefineComponent } from "vue";
  const component: DefineComponent<object, object, unknown>;
  export default component;
}
declare module "*.css";
declare module "*.svg" {
  const address: string;
  export default address;
}
declare module "virtual:english-first" {
  const texts: typeof import("../../src/jutrel/catalog/texts/en/interface.json");
  export default texts;
}
declare module "virtual:english-rest" {
  const texts: typeof import("../../src/jutrel/catalog/texts/en/interface.json");
  export default texts;
}
