/** Settings of single steps, kept under names. */

import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";

import { api, unwrap } from "../../api/client";
import type { Params } from "../../api/types";

const key = ["saved-settings"] as const;

export function useSavedSettings() {
  return useQuery({ queryKey: key, queryFn: () => unwrap(api.GET("/api/saved-settings/")) });
}

export function useSaveSettings() {
  const client = useQueryClient();
  return useMutation({
    mutationFn: (body: { type: string; name: string; params: Params }) => unwrap(api.POST("/api/saved-settings/", { body })),
    onSuccess: () => client.invalidateQueries({ queryKey: key }),
  });
}

export function useDropSettings() {
  const client = useQueryClient();
  return useMutation({
    mutationFn: (id: string) => unwrap(api.DELETE("/api/saved-settings/{id}/", { params: { path: { id } } })),
    onSuccess: () => client.invalidateQueries({ queryKey: key }),
  });
}
