/**
 * For Prettier: pages with their styles as they were written, one rule a line.
 * Broken up, a page's styles would be longer than its script and its template together.
 */
import * as html from "prettier/plugins/html";

const { html: printer } = html.printers;

export const parsers = { vue: html.parsers.vue };
export const printers = {
  html: { ...printer, embed: (path, options) => (path.parent?.name === "style" ? undefined : printer.embed(path, options)) },
};
