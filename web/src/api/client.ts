import { shallowRef } from "vue";
import createClient, { type MaybeOptionalInit } from "openapi-fetch";

import type { components, paths } from "./schema";

export type Schemas = components["schemas"];
export type Problem = Schemas["ProblemOut"];

type Method = "get" | "put" | "post" | "patch" | "delete";
/** Addresses that have a method. */
type At<M extends Method> = { [P in keyof paths]: paths[P] extends Record<M, object> ? P : never }[keyof paths];
type Json<R> = R extends { content: { "application/json": infer T } } ? T : null;
/** What an address answers, by the document that the server makes of itself. */
type Answer<P extends keyof paths, M extends Method> =
  paths[P] extends Record<M, { responses: infer R }>
    ? R extends { 200: infer A }
      ? Json<A>
      : R extends { 201: infer A }
        ? Json<A>
        : null
    : never;
type Init<P extends keyof paths, M extends Method> = MaybeOptionalInit<paths[P], M>;

/** What a call came to: data, or a problem in the server's words, or no answer at all. */
export type Reply<T> = { ok: true; data: T } | { ok: false; away: boolean; status: number; problem: Problem | null };

/** What whoever is signed in may not do, and who may. */
export const refused = shallowRef<Problem | null>(null);

/** Nobody has touched this tablet for a while: what its page asks by itself keeps no session open. */
export const untouched = { value: false };

const client = createClient<paths>({ baseUrl: "/" });
const language = () => document.documentElement.lang || "en";
// What the server says comes in the language that the pages speak.
client.use({
  onRequest({ request }) {
    request.headers.set("Accept-Language", language());
    if (untouched.value) request.headers.set("Jutrel-Untouched", "1");
    return request;
  },
});
/** An address that the browser follows by itself, in the language of the pages. */
export const inLanguage = (address: string) => `${address}${address.includes("?") ? "&" : "?"}language=${language()}`;

// The library widens tuples in what it gives back; the type of the answer is the document's own.
type Plainly = (method: Method, path: string, init: unknown) => Promise<{ data?: never; error?: unknown; response: Response }>;
const plainly = client.request as unknown as Plainly;
const isProblem = (error: unknown): error is Problem => typeof error === "object" && error !== null && "detail" in error;

/** Ask the server; a dead network and an absent record store are the same to the person. */
export async function call<M extends Method, P extends At<M>>(method: M, path: P, init?: Init<P, M>): Promise<Reply<Answer<P, M>>> {
  try {
    const { data, error, response } = await plainly(method, path, init);
    if (response.ok) return { ok: true, data: data! };
    if (isProblem(error) && (error.roles as string[] | undefined)?.length) refused.value = error;
    return {
      ok: false,
      away: response.status === 503 || response.status === 502,
      status: response.status,
      problem: isProblem(error) ? error : null,
    };
  } catch {
    return { ok: false, away: true, status: 0, problem: null };
  }
}
