import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";

import { api, unwrap } from "../../api/client";
import type { Preferences } from "../../api/types";
import { awayKeys } from "../recordings";
import { runKeys } from "../runs";

const preferencesKey = ["preferences"] as const;

/** What new recordings begin with. */
export function usePreferences() {
  return useQuery({ queryKey: preferencesKey, queryFn: () => unwrap(api.GET("/api/preferences/")) });
}

/** Change some of it. */
export function useChangePreferences() {
  const client = useQueryClient();
  return useMutation({
    mutationFn: (changes: Partial<Preferences>) => unwrap(api.PATCH("/api/preferences/", { body: changes })),
    onSuccess: (now) => client.setQueryData(preferencesKey, now),
  });
}

/** What lies on the disk. */
export function useSpace() {
  return useQuery({ queryKey: awayKeys.space, queryFn: () => unwrap(api.GET("/api/space/")), staleTime: 0 });
}

/** Deleted recordings that can be taken back. */
export function usePutAway() {
  return useQuery({ queryKey: awayKeys.putAway, queryFn: () => unwrap(api.GET("/api/put-away/")), staleTime: 0 });
}

/** Versions and limits; they do not change while the server runs. */
export function useAbout() {
  return useQuery({ queryKey: ["about"], queryFn: () => unwrap(api.GET("/api/about/")), staleTime: Infinity });
}

/** What can be removed for good. */
export type Removable = "decoded" | "earlier-results" | "put-away";

/** Remove it for good. */
export function useMakeRoom() {
  const client = useQueryClient();
  return useMutation({
    mutationFn: (what: Removable) => unwrap(api.DELETE("/api/space/{what}/", { params: { path: { what } } })),
    onSuccess: (space) => {
      client.setQueryData(awayKeys.space, space);
      void client.invalidateQueries({ queryKey: awayKeys.putAway });
      void client.invalidateQueries({ queryKey: runKeys.all });
    },
  });
}
