import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";

import { api, asApiError, csrfToken, unwrap } from "../../api/client";
import type { Target, TargetBody } from "../../api/types";

const targetsKey = ["targets"] as const;

/** All targets, by name. */
export function useTargets() {
  return useQuery({ queryKey: targetsKey, queryFn: () => unwrap(api.GET("/api/targets/")) });
}

/** What can be bounded; it does not change while the server runs. */
export function useBoundedMeasures() {
  return useQuery({
    queryKey: ["bounded-measures"],
    queryFn: () => unwrap(api.GET("/api/bounded-measures/")),
    staleTime: Infinity,
  });
}

/** Rules of a target judged on a run, or on the recording as it came. */
export function useCheck(target: string | null, on: { run: string } | { recording: string }) {
  return useQuery({
    queryKey: [...targetsKey, target, "check", on],
    queryFn: () =>
      unwrap(api.GET("/api/targets/{id}/check/", { params: { path: { id: target ?? "" }, query: on } })),
    enabled: target !== null,
    retry: false,
  });
}

function useTargetChange<T, R>(change: (input: T) => Promise<R>) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: change,
    onSuccess: () => client.invalidateQueries({ queryKey: targetsKey }),
  });
}

/** Keep a new target, or change the one with an id. */
export const useSaveTarget = () =>
  useTargetChange(({ id, body }: { id: string | null; body: TargetBody }): Promise<Target> =>
    id === null
      ? unwrap(api.POST("/api/targets/", { body }))
      : unwrap(api.PUT("/api/targets/{id}/", { params: { path: { id } }, body })),
  );

/** Delete a target; what was delivered towards it stays. */
export const useDeleteTarget = () =>
  useTargetChange((id: string) => unwrap(api.DELETE("/api/targets/{id}/", { params: { path: { id } } })));

/** Take in a target document. */
export const useImportTarget = () =>
  useTargetChange(async (file: File) => {
    const answer = await fetch(`/api/targets/import/?name=${encodeURIComponent(file.name)}`, {
      method: "POST",
      headers: { "X-CSRFToken": csrfToken(), "Content-Type": "application/json" },
      body: await file.text(),
    });
    if (!answer.ok) throw asApiError(await answer.json().catch(() => null));
  });
