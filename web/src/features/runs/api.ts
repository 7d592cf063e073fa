import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";

import { api, unwrap } from "../../api/client";
import type { Overview, Run } from "../../api/types";

export const runKeys = {
  all: ["runs"] as const,
  of: (recording: string) => ["runs", "of", recording] as const,
  one: (id: string) => ["runs", "one", id] as const,
};

/** Whether work on it is still to come. */
export const isBusy = (job: { state: string }) =>
  job.state === "waiting" || job.state === "running";

/** Runs of a recording, newest first; asked again while one is busy. */
export function useRuns(recording: string) {
  return useQuery({
    queryKey: runKeys.of(recording),
    queryFn: () => unwrap(api.GET("/api/runs/", { params: { query: { recording } } })),
    refetchInterval: (query) => (query.state.data?.some(isBusy) ? 400 : false),
  });
}

/** One run. */
export function useRun(id: string | null) {
  return useQuery({
    queryKey: runKeys.one(id ?? ""),
    queryFn: () => unwrap(api.GET("/api/runs/{id}/", { params: { path: { id: id ?? "" } } })),
    enabled: id !== null,
  });
}

/** What the proposed chain corrects about itself after this run of it. */
export function useCorrection(id: string | null) {
  return useQuery({
    queryKey: [...runKeys.one(id ?? ""), "correction"],
    queryFn: () => unwrap(api.GET("/api/runs/{id}/correction/", { params: { path: { id: id ?? "" } } })),
    enabled: id !== null,
    retry: false,
    staleTime: Infinity,
  });
}

/** Waveform of a finished run's result. */
export function useRunOverview(id: string | null, bins: number) {
  return useQuery({
    queryKey: [...runKeys.one(id ?? ""), "overview", bins],
    queryFn: (): Promise<Overview> =>
      unwrap(
        api.GET("/api/runs/{id}/overview/", {
          params: { path: { id: id ?? "" }, query: { bins } },
        }),
      ),
    enabled: id !== null,
    staleTime: Infinity,
  });
}

function useRunChange<T>(change: (input: T) => Promise<Run>) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: change,
    onSuccess: async () => {
      await client.invalidateQueries({ queryKey: runKeys.all });
      await client.invalidateQueries({ queryKey: ["batches"] });
    },
  });
}

/** Run the chain of a recording; `fit` sets its last steps to meet the recording's target. */
export const useStartRun = () =>
  useRunChange(({ recording, fit = false }: { recording: string; fit?: boolean }) =>
    unwrap(api.POST("/api/runs/", { body: { recording, fit } })),
  );

/** Stop a run. */
export const useCancelRun = () =>
  useRunChange((id: string) => unwrap(api.POST("/api/runs/{id}/cancel/", { params: { path: { id } } })));

/** Try a run again. */
export const useRetryRun = () =>
  useRunChange((id: string) => unwrap(api.POST("/api/runs/{id}/retry/", { params: { path: { id } } })));

/** Call a result something; an empty name takes it away. */
export const useNameRun = () =>
  useRunChange(({ id, label }: { id: string; label: string }) => unwrap(api.PATCH("/api/runs/{id}/", { params: { path: { id } }, body: { label } })));
