/** Tastings: several treatments of a passage under letters, in an order that may tell nothing. */

import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";

import { api, unwrap } from "../../api/client";
import type { Step } from "../../api/types";

export const LEAST_TASTED = 2;
export const MOST_TASTED = 8;

/** Places 0 to `count` - 1 in an order drawn by chance. */
export function shuffled(count: number, random: () => number = Math.random): number[] {
  const places = Array.from({ length: count }, (_, i) => i);
  for (let i = count - 1; i > 0; i -= 1) {
    const j = Math.floor(random() * (i + 1));
    [places[i], places[j]] = [places[j] ?? j, places[i] ?? i];
  }
  return places;
}

/** Put an entry at a place of the ranking; the others keep their order. */
export function rankedAt(ranking: readonly number[], entry: number, place: number): number[] {
  const rest = ranking.filter((one) => one !== entry);
  return [...rest.slice(0, place), entry, ...rest.slice(place)];
}

const key = (recording: string) => ["tastings", recording] as const;

/** Earlier tastings of a recording, newest first. */
export function useTastings(recording: string) {
  return useQuery({
    queryKey: key(recording),
    queryFn: () => unwrap(api.GET("/api/tastings/", { params: { query: { recording } } })),
  });
}

export interface Tasted {
  label: string;
  /** Null of a take or a result. */
  steps: Step[] | null;
  note: string;
}

/** Keep a tasting with the recording. */
export function useKeepTasting(recording: string) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: (body: { start_s: number; end_s: number; blind: boolean; entries: Tasted[] }) =>
      unwrap(api.POST("/api/tastings/", { body: { recording, ...body } })),
    onSuccess: () => client.invalidateQueries({ queryKey: key(recording) }),
  });
}
