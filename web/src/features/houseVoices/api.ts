import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";

import { api, unwrap } from "../../api/client";

const houseVoicesKey = ["house-voices"] as const;

/** All house voices. */
export const useHouseVoices = () => useQuery({ queryKey: houseVoicesKey, queryFn: () => unwrap(api.GET("/api/house-voices/")) });

/** Keep the voice of finished recordings under a name. */
export function useMakeHouseVoice() {
  const client = useQueryClient();
  return useMutation({
    mutationFn: (body: { name: string; recordings: string[] }) => unwrap(api.POST("/api/house-voices/", { body })),
    onSuccess: () => client.invalidateQueries({ queryKey: houseVoicesKey }),
  });
}

/** Delete one; steps that were made from it keep its tone. */
export function useDeleteHouseVoice() {
  const client = useQueryClient();
  return useMutation({
    mutationFn: (id: string) => unwrap(api.DELETE("/api/house-voices/{id}/", { params: { path: { id } } })),
    onSuccess: () => client.invalidateQueries({ queryKey: houseVoicesKey }),
  });
}

/** How far a recording is from a house voice; `mark` changes with its figures and results. */
export const useDistance = (houseVoice: string | null, recording: string, mark: string) =>
  useQuery({
    queryKey: [...houseVoicesKey, houseVoice, recording, mark],
    queryFn: () => unwrap(api.GET("/api/house-voices/{id}/distance/", { params: { path: { id: houseVoice ?? "" }, query: { recording } } })),
    enabled: houseVoice !== null,
  });
