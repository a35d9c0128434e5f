import createClient from "openapi-fetch";

import type { components, paths } from "./schema";

export type Schemas = components["schemas"];
export type Problem = Schemas["ProblemOut"];

export const api = createClient<paths>({ baseUrl: "/" });
// What the server says comes in the language that the pages speak.
api.use({
  onRequest({ request }) {
    request.headers.set("Accept-Language", document.documentElement.lang || "en");
    return request;
  },
});
/** An address that the browser follows by itself, in the language of the pages. */
export const inLanguage = (address: string) => `${address}${address.includes("?") ? "&" : "?"}language=${document.documentElement.lang || "en"}`;

/** What a call came to: data, or a problem in the server's words, or no answer at all. */
export type Reply<T> = { ok: true; data: T } | { ok: false; away: boolean; status: number; problem: Problem | null };

type Raw = { data?: unknown; error?: unknown; response: Response };

/** Turns a fetch into a Reply; a dead network and an absent record store are the same to the person. The type is the schema's: the client widens its tuples. */
export async function ask<T = null>(call: Promise<Raw>): Promise<Reply<T>> {
  try {
    const { data, error, response } = await call;
    if (response.ok) return { ok: true, data: data as T };
    const problem = (error && typeof error === "object" ? error : null) as Problem | null;
    return { ok: false, away: response.status === 503 || response.status === 502, status: response.status, problem };
  } catch {
    return { ok: false, away: true, status: 0, problem: null };
  }
}
