import {
  infiniteQueryOptions,
  keepPreviousData,
  type Query,
  QueryClient,
  queryOptions,
  useInfiniteQuery,
  useQuery,
} from "@tanstack/react-query";
import { api, asked, Problem, type Schemas } from "./client";
import { backInReach, reached } from "./reach";
import { isLeaving, left, meet, signedIn } from "./session";

/**
 * What is asked anew is asked after the change: a first answer that is still under way may be from before it,
 * and would otherwise be taken for the new one.
 */
class Queries extends QueryClient {
  override async invalidateQueries(...given: Parameters<QueryClient["invalidateQueries"]>) {
    const asking = { type: "active", fetchStatus: "fetching", predicate: hasNone } as const;
    await this.cancelQueries({ ...asking, queryKey: given[0]?.queryKey });
    return super.invalidateQueries(...given);
  }

  /** Every question is asked so that its answer is at hand without signal, where that is of use. */
  override defaultQueryOptions: QueryClient["defaultQueryOptions"] = (given) => {
    const options = super.defaultQueryOptions(given);
    const ask = options.queryFn;
    if (typeof ask !== "function" || (ask as Reaching).reaches) return options;
    const reaching: Reaching = (context: never) => {
      const { queryKey, pageParam } = context as { queryKey: readonly unknown[]; pageParam?: unknown };
      const hash = pageParam === undefined ? options.queryHash : `${options.queryHash} ${JSON.stringify(pageParam)}`;
      return reached(hash, queryKey[0], () => Promise.resolve(ask(context)));
    };
    reaching.reaches = true;
    options.queryFn = reaching as typeof ask;
    return options;
  };
}
type Reaching = ((context: never) => Promise<unknown>) & { reaches?: true };
const hasNone = (query: Query) => query.state.data === undefined;

export const queries = new Queries({
  defaultOptions: {
    queries: {
      retry: (count, error) =>
        navigator.onLine && (!(error instanceof Problem) || error.status === 0 || error.status >= 500) && count < 3,
      staleTime: 5_000,
      // Out of reach a question is answered from this device, and does not wait until it is back.
      networkMode: "always",
    },
    mutations: { networkMode: "always" },
  },
});

/** What was answered from this device while the server was out of reach is asked anew. */
addEventListener("online", () => {
  const here = backInReach();
  void queries.invalidateQueries({ predicate: (query) => here(query.queryHash) });
});

/** So many rows the server gives at a time: where it gave as many, there may be more. */
export const FULL_PAGE = 100;

const forGood = { staleTime: Infinity, gcTime: Infinity };

export const meQuery = queryOptions({
  queryKey: ["me"],
  queryFn: async () => {
    if (isLeaving()) {
      await asked(api.POST("/api/sign-out"));
      left();
    }
    const me = await asked(api.GET("/api/me"));
    meet(me.id);
    return me;
  },
  staleTime: 60_000,
});
export const unitsQuery = queryOptions({
  queryKey: ["units"],
  queryFn: () => asked(api.GET("/api/units")),
  ...forGood,
});
export const sumsQuery = queryOptions({
  queryKey: ["sums"],
  queryFn: () => asked(api.GET("/api/sums")),
  staleTime: Infinity,
});
export const jobQuery = (id: string) =>
  queryOptions({
    queryKey: ["job", id],
    queryFn: () => asked(api.GET("/api/jobs/{job_id}", { params: { path: { job_id: id } } })),
    staleTime: Infinity,
  });
export const roundQuery = queryOptions({ queryKey: ["round"], queryFn: () => asked(api.GET("/api/round")) });
/** What a list of systems is narrowed by. */
export interface RoundAsks {
  find?: string;
  site?: string;
  kind?: string;
  state?: string;
  wanted?: boolean;
}
/** The round a page at a time, what is wanted now first; `find` narrows it. */
export const roundPages = (given: RoundAsks = {}) => {
  const asks = Object.fromEntries(Object.entries(given).filter(([, value]) => value)) as RoundAsks;
  return infiniteQueryOptions({
    queryKey: ["round", "pages", asks],
    queryFn: ({ pageParam }) => asked(api.GET("/api/round", { params: { query: { after: pageParam, ...asks } } })),
    initialPageParam: 0,
    getNextPageParam: (page) => page.later,
    placeholderData: keepPreviousData,
  });
};
export const useRoundPages = (asks: RoundAsks) => useInfiniteQuery(roundPages(asks));
export const useSystemNames = (kind = "", enabled = true) =>
  useQuery({
    queryKey: ["systems", "names", kind],
    queryFn: () => asked(api.GET("/api/system-names", { params: { query: { kind } } })),
    enabled,
  });
export const systemQuery = (id: string) =>
  queryOptions({
    queryKey: ["system", id],
    queryFn: () => asked(api.GET("/api/systems/{system_id}", { params: { path: { system_id: id } } })),
  });

/** Who is signed in: as the server says, or as this device knew last. */
export const useMe = () => {
  const found = useQuery(meQuery);
  if (found.data && !signedIn()) meet(found.data.id);
  return found;
};
export const useUnits = () => useQuery(unitsQuery);
export const useRound = () => useQuery(roundQuery);
export const useSystem = (id: string) => useQuery(systemQuery(id));
export const useMachines = () =>
  useQuery({ queryKey: ["machines"], queryFn: () => asked(api.GET("/api/machines")), ...forGood });
export const referencesQuery = queryOptions({
  queryKey: ["references"],
  queryFn: () => asked(api.GET("/api/references")),
});
export const useReferences = () => useQuery(referencesQuery);
export const useProfiles = () => useQuery({ queryKey: ["profiles"], queryFn: () => asked(api.GET("/api/profiles")) });
export const useRecord = (id: string) =>
  useQuery({
    queryKey: ["record", id],
    queryFn: () => asked(api.GET("/api/records/{record_id}", { params: { path: { record_id: id } } })),
  });
export const useInstruments = () =>
  useQuery({ queryKey: ["instruments"], queryFn: () => asked(api.GET("/api/instruments")) });
export const useLinks = () =>
  useQuery({ queryKey: ["links"], queryFn: () => asked(api.GET("/api/links")) as Promise<Schemas["LinkView"][]> });
