import { keepPreviousData, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";

import { api, asApiError, csrfToken, unwrap } from "../../api/client";
import type { StartBatch } from "../../api/types";
import { isBusy } from "../runs";

const batchKeys = { all: ["batches"] as const, one: (id: string) => ["batches", id] as const };

/** The more files a batch has, the more of the machine it takes to tell of them. */
const ASKED_EVERY_MS = 400;
const FOR_EACH_FILE_MS = 8;

/** All batches, newest first. */
export function useBatches() {
  return useQuery({
    queryKey: batchKeys.all,
    queryFn: () => unwrap(api.GET("/api/batches/")),
    refetchInterval: (query) => (query.state.data?.some((batch) => batch.to_go > 0) ? 1000 : false),
  });
}

/** One batch, asked again while it is at work. */
export function useBatch(id: string) {
  return useQuery({
    queryKey: batchKeys.one(id),
    queryFn: () => unwrap(api.GET("/api/batches/{id}/", { params: { path: { id } } })),
    refetchInterval: (query) => {
      const runs = query.state.data?.runs ?? [];
      return runs.some(isBusy) ? ASKED_EVERY_MS + FOR_EACH_FILE_MS * runs.length : false;
    },
  });
}

/** Names, tags and levels as they would be. */
export function usePreview(body: StartBatch) {
  return useQuery({
    queryKey: ["batches", "preview", body],
    queryFn: () => unwrap(api.POST("/api/batches/preview/", { body })),
    enabled: body.recordings.length > 0,
    placeholderData: keepPreviousData,
    retry: false,
  });
}

function useBatchChange<T, R>(change: (input: T) => Promise<R>) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: change,
    onSuccess: () => client.invalidateQueries({ queryKey: batchKeys.all }),
  });
}

/** Start a batch. */
export const useStartBatch = () => useBatchChange((body: StartBatch) => unwrap(api.POST("/api/batches/", { body })));

/** Stop what has not ended. */
export const useCancelBatch = () =>
  useBatchChange((id: string) => unwrap(api.POST("/api/batches/{id}/cancel/", { params: { path: { id } } })));

/** Begin no further file, or go on. */
export const usePauseBatch = () =>
  useBatchChange(({ id, pause }: { id: string; pause: boolean }) =>
    pause
      ? unwrap(api.POST("/api/batches/{id}/pause/", { params: { path: { id } } }))
      : unwrap(api.POST("/api/batches/{id}/go-on/", { params: { path: { id } } })),
  );

/** Delete a batch with its results. */
export const useDeleteBatch = () =>
  useBatchChange((id: string) => unwrap(api.DELETE("/api/batches/{id}/", { params: { path: { id } } })));

/** Keep a picture for deliveries; gives what to name it by. */
export function useKeepCover() {
  return useMutation({
    mutationFn: async (file: File): Promise<string> => {
      const answer = await fetch(`/api/covers/?name=${encodeURIComponent(file.name)}`, {
        method: "POST", headers: { "X-CSRFToken": csrfToken(), "Content-Type": "application/octet-stream" }, body: file,
      });
      const body: unknown = await answer.json().catch(() => null);
      if (!answer.ok) throw asApiError(body);
      return (body as { cover: string }).cover;
    },
  });
}
