import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";

import { api, unwrap } from "../../api/client";
import type { Batch } from "../../api/types";
import { isBusy } from "../runs";

const batchKeys = { all: ["batches"] as const, one: (id: string) => ["batches", id] as const };
const busy = (batch: Batch) => batch.runs.some(isBusy);

/** All batches, newest first. */
export function useBatches() {
  return useQuery({
    queryKey: batchKeys.all,
    queryFn: () => unwrap(api.GET("/api/batches/")),
    refetchInterval: (query) => (query.state.data?.some(busy) ? 1000 : false),
  });
}

/** One batch, asked again while it is at work. */
export function useBatch(id: string) {
  return useQuery({
    queryKey: batchKeys.one(id),
    queryFn: () => unwrap(api.GET("/api/batches/{id}/", { params: { path: { id } } })),
    refetchInterval: (query) => (query.state.data && busy(query.state.data) ? 400 : false),
  });
}

/** Start a batch. */
export function useStartBatch() {
  const client = useQueryClient();
  return useMutation({
    mutationFn: (body: { name: string; recipe: string; recordings: string[] }) =>
      unwrap(api.POST("/api/batches/", { body })),
    onSuccess: () => client.invalidateQueries({ queryKey: batchKeys.all }),
  });
}

/** Stop what has not ended. */
export function useCancelBatch() {
  const client = useQueryClient();
  return useMutation({
    mutationFn: (id: string) =>
      unwrap(api.POST("/api/batches/{id}/cancel/", { params: { path: { id } } })),
    onSuccess: () => client.invalidateQueries({ queryKey: batchKeys.all }),
  });
}

/** Delete a batch with its results. */
export function useDeleteBatch() {
  const client = useQueryClient();
  return useMutation({
    mutationFn: (id: string) =>
      unwrap(api.DELETE("/api/batches/{id}/", { params: { path: { id } } })),
    onSuccess: () => client.invalidateQueries({ queryKey: batchKeys.all }),
  });
}
