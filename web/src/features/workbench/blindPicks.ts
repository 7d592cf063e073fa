/** Blind picks: rounds whose sides nobody knows, and keeping what came of them. */

import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";

import { api, unwrap } from "../../api/client";
import type { Step } from "../../api/types";
import type { Side } from "../../audio/playback";

export const LEAST_ROUNDS = 5;
export const MOST_ROUNDS = 20;

/** The two sides in the order of their labels, "1" and "2". */
export type Order = readonly [Side, Side];

/** A random order, by the browser's own generator. */
export function randomOrder(): Order {
  const [toss] = crypto.getRandomValues(new Uint8Array(1));
  return (toss ?? 0) % 2 === 0 ? ["before", "after"] : ["after", "before"];
}

const keyOf = (recordingId: string) => ["blind-picks", recordingId] as const;

export function useBlindPicks(recordingId: string) {
  return useQuery({
    queryKey: keyOf(recordingId),
    queryFn: () => unwrap(api.GET("/api/blind-picks/", { params: { query: { recording: recordingId } } })),
  });
}

export interface Picked {
  steps: Step[];
  startS: number;
  endS: number;
  pickedAfter: boolean[];
}

export function useKeepBlindPick(recordingId: string) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: ({ steps, startS, endS, pickedAfter }: Picked) =>
      unwrap(
        api.POST("/api/blind-picks/", {
          body: {
            recording: recordingId, chain: steps,
            start_s: startS, end_s: endS, picked_after: pickedAfter,
          },
        }),
      ),
    onSuccess: () => client.invalidateQueries({ queryKey: keyOf(recordingId) }),
  });
}
