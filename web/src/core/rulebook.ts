import { call, type Reply, type Schemas } from "../api/client";

/**
 * The one door to the rulebook. Today the server's stateless routes answer; later the same core may do so on the
 * device. Who asks never knows which. Nothing here or beside it grades, orders or permits.
 */

type Machine = { machine: string };

/** The grade that a finding would have on the look as it stands. */
export const gradeFinding = (body: Schemas["GradeIn"], signal?: AbortSignal): Promise<Reply<Schemas["ItemOut"]>> =>
  call("post", "/api/grade", { body, signal });

/** One reading of the list, from what was given. */
export const takeReading = (key: string, body: Schemas["ReadingIn"], signal?: AbortSignal): Promise<Reply<Schemas["ReadResultOut"]>> =>
  call("post", "/api/readings/{key}", { params: { path: { key } }, body, signal });

/** The walk that an occasion calls for, in the shortest order. */
export const planWalk = ({ machine }: Machine, body: Schemas["OccasionIn"], signal?: AbortSignal): Promise<Reply<Schemas["WalkOut"]>> =>
  call("post", "/api/machines/{machine}/walk", { params: { path: { machine } }, body, signal });

/** Everything that a unit has, with what is open on it. */
export const wholeMachine = ({ machine }: Machine, signal?: AbortSignal): Promise<Reply<Schemas["WalkOut"]>> =>
  call("get", "/api/machines/{machine}/walk", { params: { path: { machine } }, signal });

/** The shortest way on that keeps every rule. */
export const planWay = ({ machine }: Machine, body: Schemas["RouteIn"], signal?: AbortSignal): Promise<Reply<Schemas["RoutesOut"]>> =>
  call("post", "/api/machines/{machine}/route", { params: { path: { machine } }, body, signal });

/**
 * Asks one thing again and again while a hand moves: what is asked now cancels what was asked before, and an answer
 * that comes too late is nobody's. Null: it was overtaken.
 */
export function latest<A extends unknown[], T>(ask: (signal: AbortSignal, ...args: A) => Promise<T>) {
  let running: AbortController | null = null;
  return async (...args: A): Promise<T | null> => {
    running?.abort();
    const mine = (running = new AbortController());
    const answer = await ask(mine.signal, ...args);
    return mine.signal.aborted ? null : answer;
  };
}
