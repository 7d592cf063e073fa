/** Pieces of music that are kept: beds to lay under voices, intros and outros of targets. */

import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";

import { api, asApiError, csrfToken, unwrap } from "../../api/client";

const bedsKey = ["beds"] as const;

/** All beds, by name. */
export function useBeds() {
  return useQuery({ queryKey: bedsKey, queryFn: () => unwrap(api.GET("/api/beds/")) });
}

/** Bring in a piece of music. */
export function useBringBed() {
  const client = useQueryClient();
  return useMutation({
    mutationFn: async (file: File) => {
      const answer = await fetch(`/api/beds/upload/?name=${encodeURIComponent(file.name)}`, {
        method: "POST", headers: { "X-CSRFToken": csrfToken(), "Content-Type": "application/octet-stream" }, body: file,
      });
      const body: unknown = await answer.json().catch(() => null);
      if (!answer.ok) throw asApiError(body);
      return body as { id: string };
    },
    onSuccess: () => client.invalidateQueries({ queryKey: bedsKey }),
  });
}

/** Delete a bed; mixes over it stay. */
export function useDeleteBed() {
  const client = useQueryClient();
  return useMutation({
    mutationFn: (id: string) => unwrap(api.DELETE("/api/beds/{id}/", { params: { path: { id } } })),
    onSuccess: () => client.invalidateQueries({ queryKey: bedsKey }),
  });
}
