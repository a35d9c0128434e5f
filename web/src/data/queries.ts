import { keepPreviousData, QueryClient, useInfiniteQuery, useQuery as useQueryOf, type UseQueryOptions } from "@tanstack/vue-query";
import { computed, type Ref, toValue, type MaybeRefOrGetter } from "vue";
import { useI18n } from "vue-i18n";

import { call, type Reply, type Schemas } from "../api/client";
import { useLanguage } from "../app/language";
import { wholeMachine } from "../core/rulebook";
import { offsetMs } from "../parts/clock";
import { store } from "../parts/device";
import { live, useLive } from "./live";

/** A question that the server did not answer, or answered with a problem. */
class Unanswered extends Error {
  constructor(readonly reply: Reply<unknown> & { ok: false }) {
    super(reply.problem?.detail ?? "");
  }
}
async function answered<T>(reply: Promise<Reply<T>>): Promise<T> {
  const got = await reply;
  if (got.ok) return got.data;
  throw new Unanswered(got);
}
/** Trying again helps only where the server was away. */
const again = (count: number, error: Error) => count < 2 && error instanceof Unanswered && error.reply.away;

// A site's server may be reached where the browser believes itself offline.
const client = new QueryClient({
  defaultOptions: { queries: { networkMode: "always", retry: again, staleTime: 0, gcTime: 300_000, refetchOnWindowFocus: true } },
});
// What the server told is never changed here, only replaced: to watch each part of it costs hundreds of machines dear.
const useQuery = <T>(options: UseQueryOptions<T>) => useQueryOf({ shallow: true, ...options } as UseQueryOptions<T>, client);

/** Somebody else is signed in: nothing of what was told to the one before is theirs. */
export const forgetAll = () => client.clear();

/** What went wrong, in the server's words or ours; empty if nothing did. */
export function useSays(error: Ref<Error | null>) {
  const { t } = useI18n();
  return computed(() => (error.value ? error.value.message || t("connection.awayLong") : ""));
}

const { current: language } = useLanguage();
const key = (...parts: unknown[]) => [language, ...parts] as const;

/** The yard as it was told last; `stale`: the server does not answer now. */
export interface YardTold {
  yard: Schemas["YardOut"];
  at: string;
  stale: boolean;
}
async function tellYard(signal: AbortSignal): Promise<YardTold> {
  const reply = await call("get", "/api/yard", { signal });
  if (reply.ok) {
    const told = { yard: reply.data, at: new Date().toISOString(), stale: false };
    // For a reload with no network; nobody waits for it, and a full device shows the yard all the same.
    void store.kept.put({ key: "yard", value: told }).catch(() => undefined);
    return told;
  }
  const kept = await store.keptAs<YardTold>("yard");
  if (kept) return { ...kept, stale: true };
  throw new Unanswered(reply);
}
/** What was written is told by the server; what time alone changes is asked for now and then. */
const pause = () => (live.value ? 60_000 : 15_000);

/** What shows on pages that are open is asked for again; the rest when it is opened. */
const written = () => void client.invalidateQueries({ predicate: (q) => ["yard", "defects"].includes(String(q.queryKey[1])) });

export const useYard = () => {
  useLive(written);
  return useQuery({ queryKey: key("yard"), queryFn: ({ signal }) => tellYard(signal), refetchInterval: pause });
};

export const useDeviceKeys = () =>
  useQuery({ queryKey: key("devices"), queryFn: ({ signal }) => answered(call("get", "/api/devices", { signal })) });

export const useHistory = (machine: Ref<string>) =>
  useQuery({
    queryKey: key("history", machine),
    queryFn: ({ signal }) =>
      answered(call("get", "/api/inspections", { params: { query: { machine: machine.value || undefined, limit: 100 } }, signal })),
  });

export const useInspection = (inspection: string) =>
  useQuery({
    queryKey: key("inspection", inspection),
    queryFn: ({ signal }) => answered(call("get", "/api/inspections/{inspection}", { params: { path: { inspection } }, signal })),
  });

/** The site's models, and the fingerprint of its key. */
export const useModelsPage = () =>
  useQuery({ queryKey: key("models"), queryFn: ({ signal }) => answered(call("get", "/api/models", { signal })) });
export function useModels() {
  const { data, error } = useModelsPage();
  return { data: computed(() => data.value?.models), error };
}

export const useMachineFile = (machine: string) =>
  useQuery({
    queryKey: key("machine", machine),
    enabled: machine !== "",
    queryFn: ({ signal }) => answered(call("get", "/api/machines/{machine}", { params: { path: { machine } }, signal })),
  });

export const useIncidents = (machine: string) =>
  useQuery({
    queryKey: key("incidents", machine),
    enabled: machine !== "",
    queryFn: ({ signal }) => answered(call("get", "/api/machines/{machine}/incidents", { params: { path: { machine } }, signal })),
  });

/** A machine's life, page after page. */
export const useLife = (machine: string, asked: Ref<{ group?: Schemas["LifeGroup"][]; words?: string; limit?: number }>) =>
  useInfiniteQuery(
    {
      queryKey: key("life", machine, asked),
      enabled: machine !== "",
      initialPageParam: undefined as number | undefined,
      queryFn: ({ signal, pageParam }) =>
        answered(
          call("get", "/api/machines/{machine}/life", {
            params: { path: { machine }, query: { ...asked.value, ...(pageParam ? { before: pageParam } : {}) } },
            signal,
          }),
        ),
      getNextPageParam: (last) => last.before ?? undefined,
    },
    client,
  );

export const useOvernight = (machine: string) =>
  useQuery({
    queryKey: key("overnight", machine),
    queryFn: ({ signal }) => answered(call("get", "/api/machines/{machine}/overnight", { params: { path: { machine } }, signal })),
  });

export const useEvening = (machine: string, inspection: string, enabled: Ref<boolean>) =>
  useQuery({
    queryKey: key("evening", machine, inspection),
    enabled,
    staleTime: Infinity,
    queryFn: ({ signal }) =>
      answered(call("get", "/api/machines/{machine}/evening", { params: { path: { machine }, query: { inspection } }, signal })),
  });

export const useWholeMachine = (machine: string) =>
  useQuery({ queryKey: key("whole", machine), queryFn: ({ signal }) => answered(wholeMachine({ machine }, signal)) });

/** What is open, page by page; picked by the server, so that a page costs the same whatever the fleet has open. */
export const useDefects = (
  picked: Ref<{ machine?: string; duty?: string; stage?: Schemas["DefectStage"]; asked?: boolean; defect?: string; most?: number }>,
) => {
  useLive(written);
  return useInfiniteQuery(
    {
      queryKey: computed(() => [language.value, "defects", picked.value]),
      refetchInterval: pause,
      placeholderData: keepPreviousData,
      initialPageParam: "",
      getNextPageParam: (last: Schemas["DefectsOut"]) => last.after ?? undefined,
      queryFn: ({ signal, pageParam }: { signal: AbortSignal; pageParam: string }) =>
        answered(call("get", "/api/defects", { params: { query: { ...picked.value, after: pageParam } }, signal })),
    },
    client,
  );
};

export const useWithin = () =>
  useQuery({ queryKey: key("within"), refetchInterval: pause, queryFn: ({ signal }) => answered(call("get", "/api/limits", { signal })) });

/** The list of readings: kept on the device, so that a reading can be taken where there is no network. */
async function tellReadings(signal: AbortSignal): Promise<Schemas["ListedOut"][]> {
  const kept = `readings/${language.value}`;
  const reply = await call("get", "/api/readings", { signal });
  if (reply.ok) {
    await store.kept.put({ key: kept, value: reply.data }).catch(() => undefined);
    return reply.data;
  }
  const have = await store.keptAs<Schemas["ListedOut"][]>(kept);
  if (have) return have;
  throw new Unanswered(reply);
}
export const useReadings = () =>
  useQuery({ queryKey: key("readings"), staleTime: Infinity, queryFn: ({ signal }) => tellReadings(signal) });

export const useSeries = (machine: string) =>
  useQuery({
    queryKey: key("series", machine),
    queryFn: ({ signal }) => answered(call("get", "/api/machines/{machine}/readings", { params: { path: { machine } }, signal })),
  });

/** Devices of the site, and of a machine where one is named. */
export const useInstruments = (machine: MaybeRefOrGetter<string> = "") =>
  useQuery({
    queryKey: key(
      "instruments",
      computed(() => toValue(machine)),
    ),
    staleTime: 20_000,
    refetchInterval: 60_000,
    queryFn: ({ signal }) =>
      answered(call("get", "/api/instruments", { params: { query: { machine: toValue(machine) || null } }, signal })),
  });

/** How the machine of a run is parked: it stays as it was when the run began. */
export const useParked = (machine: string, run: string) =>
  useQuery({
    queryKey: key("parked", machine, run),
    staleTime: Infinity,
    queryFn: ({ signal }) =>
      answered(call("get", "/api/machines/{machine}/run/{run}/parked", { params: { path: { machine, run } }, signal })),
  });

const HOUR_MS = 3_600_000;
/** How a machine's values went in the last hours. */
export const useCourse = (machine: string, hours: Ref<number>) =>
  useQuery({
    queryKey: key("course", machine, hours),
    refetchInterval: 60_000,
    queryFn: ({ signal }) => {
      const until = new Date(Date.now() + (offsetMs() ?? 0));
      return answered(
        call("get", "/api/machines/{machine}/panel/course", {
          params: {
            path: { machine },
            query: { since: new Date(until.getTime() - hours.value * HOUR_MS).toISOString(), until: until.toISOString() },
          },
          signal,
        }),
      );
    },
  });

export const useNeeds = (machine: string, shift_hours: Ref<number>, work: Ref<"light" | "medium" | "hard">) =>
  useQuery({
    queryKey: key("needs", machine, shift_hours, work),
    queryFn: ({ signal }) =>
      answered(
        call("get", "/api/machines/{machine}/needs", {
          params: { path: { machine }, query: { shift_hours: shift_hours.value, work: work.value } },
          signal,
        }),
      ),
  });

export const useSchools = (enabled: () => boolean = () => true) =>
  useQuery({ queryKey: key("schools"), enabled, queryFn: ({ signal }) => answered(call("get", "/api/schools", { signal })) });
export const useTraining = () =>
  useQuery({ queryKey: key("training"), queryFn: ({ signal }) => answered(call("get", "/api/training", { signal })) });

export const usePeople = () =>
  useQuery({ queryKey: key("people"), queryFn: ({ signal }) => answered(call("get", "/api/people", { signal })) });

/** What others changed about whoever is signed in, and they have not read yet. */
export const useNews = () =>
  useQuery({ queryKey: key("news"), queryFn: ({ signal }) => answered(call("get", "/api/session/news", { signal })) });

/** What is asked of whoever is signed in, or by them. */
export const useAsks = () => useQuery({ queryKey: key("asks"), queryFn: ({ signal }) => answered(call("get", "/api/asks", { signal })) });

/** One's own keys. */
export const useKeys = () =>
  useQuery({ queryKey: key("passkeys"), queryFn: ({ signal }) => answered(call("get", "/api/passkeys", { signal })) });

/** The company's own sign-in, and whether one signs in by it. */
export const useCompany = () =>
  useQuery({ queryKey: key("company"), queryFn: ({ signal }) => answered(call("get", "/api/company", { signal })) });

/** Who is signed in on which device. */
export const useSessions = () =>
  useQuery({ queryKey: key("sessions"), queryFn: ({ signal }) => answered(call("get", "/api/sessions", { signal })) });

/** Who changed people, devices, models and the site, the newest first; `before`: only what stands before that line. */
export const useAccount = (before: MaybeRefOrGetter<number | undefined>) =>
  useQuery({
    queryKey: key("account", before),
    queryFn: ({ signal }) => answered(call("get", "/api/account", { params: { query: { before: toValue(before) } }, signal })),
  });

export const useLacking = (code: string) =>
  useQuery({
    queryKey: key("lacking", code),
    queryFn: ({ signal }) => answered(call("get", "/api/languages/{code}/lacking", { params: { path: { code } }, signal })),
  });

/** Puts in place what a write brought back, and asks anew where it matters. */
export function useTold() {
  return {
    machine: (file: Schemas["MachineFileOut"]) => {
      client.setQueryData([language.value, "machine", file.machine.id], file);
      void client.invalidateQueries({ queryKey: [language.value, "yard"] });
    },
    people: () => client.invalidateQueries({ queryKey: [language.value, "people"] }),
    models: () => client.invalidateQueries({ queryKey: [language.value, "models"] }),
    instruments: () => Promise.all(["instruments", "needs"].map((what) => client.invalidateQueries({ queryKey: [language.value, what] }))),
    defects: () => Promise.all(["defects", "within", "yard"].map((what) => client.invalidateQueries({ queryKey: [language.value, what] }))),
    inspection: (id: string) => client.invalidateQueries({ queryKey: [language.value, "inspection", id] }),
  };
}
