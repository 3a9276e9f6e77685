import { QueryClient, useQuery } from "@tanstack/react-query";
import { api, asked, Problem } from "./client";

export const queries = new QueryClient({
  defaultOptions: {
    queries: {
      retry: (count, error) => (error instanceof Problem && error.status > 0 && error.status < 500 ? false : count < 3),
      staleTime: 5_000,
    },
  },
});

const forGood = { staleTime: Infinity, gcTime: Infinity };

export const useMe = () => useQuery({ queryKey: ["me"], queryFn: () => asked(api.GET("/api/me")), staleTime: 60_000 });
export const useMethods = () =>
  useQuery({ queryKey: ["methods"], queryFn: () => asked(api.GET("/api/methods")), ...forGood });
export const useUnits = () =>
  useQuery({ queryKey: ["units"], queryFn: () => asked(api.GET("/api/units")), ...forGood });
export const useRound = () => useQuery({ queryKey: ["round"], queryFn: () => asked(api.GET("/api/round")) });
export const useReferences = () =>
  useQuery({ queryKey: ["references"], queryFn: () => asked(api.GET("/api/references")) });
export const useProfiles = () => useQuery({ queryKey: ["profiles"], queryFn: () => asked(api.GET("/api/profiles")) });
export const useSystem = (id: string) =>
  useQuery({
    queryKey: ["system", id],
    queryFn: () => asked(api.GET("/api/systems/{system_id}", { params: { path: { system_id: id } } })),
  });
export const useRecord = (id: string) =>
  useQuery({
    queryKey: ["record", id],
    queryFn: () => asked(api.GET("/api/records/{record_id}", { params: { path: { record_id: id } } })),
  });
export const useInstruments = () =>
  useQuery({ queryKey: ["instruments"], queryFn: () => asked(api.GET("/api/instruments")) });
