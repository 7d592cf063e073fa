import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";

import { api, unwrap } from "../../api/client";
import { notifyOtherWindows } from "../../api/otherWindows";
import type { Recording, Step } from "../../api/types";
import type { Edits } from "../../audio/cutTimes";
import { recordingKeys } from "../recordings";
import type { Origin } from "./chainHistory";

/** The version of chain and edits that this window works on; moved on by its own changes alone. */
export interface SeenVersion {
  shown: number;
  /** As it is at the instant of sending. */
  latest: () => number;
  take: (version: number) => void;
}

function useRecordingChange<T>(id: string, change: (input: T) => Promise<Recording>, seen?: SeenVersion) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: change,
    // One change after the other: an older answer must not overtake a newer one.
    scope: { id: `recording-${id}` },
    onSuccess: (recording) => {
      if (seen) {
        seen.take(recording.work_version);
        notifyOtherWindows(recordingKeys.one(id));
      }
      client.setQueryData(recordingKeys.one(id), recording);
      void client.invalidateQueries({ queryKey: recordingKeys.all, exact: true });
      void client.invalidateQueries({ queryKey: ["room-tones"] });
    },
  });
}

/** Replace the chain, and where it came from if that is another. */
export const useSetChain = (id: string, seen: SeenVersion) =>
  useRecordingChange(
    id,
    ({ steps, origin }: { steps: Step[]; origin: Origin | null }) =>
      unwrap(api.PUT("/api/recordings/{id}/chain/", { params: { path: { id } }, body: { steps, ...origin, work_version: seen.latest() } })),
    seen,
  );

/** Set which findings are not to be shown again. */
export const useDismiss = (id: string) =>
  useRecordingChange(id, (dismissed: string[]) =>
    unwrap(api.PATCH("/api/recordings/{id}/", { params: { path: { id } }, body: { dismissed } })),
  );

/** Make a recipe's steps the chain. */
export const useApplyRecipeHere = (id: string, seen: SeenVersion) =>
  useRecordingChange(
    id,
    (recipe: string) =>
      unwrap(api.POST("/api/recordings/{id}/apply-recipe/", { params: { path: { id } }, body: { recipe, work_version: seen.latest() } })),
    seen,
  );

/** Choose what its delivery must meet; null for nothing. */
export const useSetTarget = (id: string) =>
  useRecordingChange(id, (target: string | null) =>
    unwrap(api.PUT("/api/recordings/{id}/target/", { params: { path: { id } }, body: { target } })),
  );

/** Replace cuts, choice of channel and what is added at the ends. */
export const useSetEdits = (id: string, seen: SeenVersion) =>
  useRecordingChange(
    id,
    (edits: Edits) =>
      unwrap(api.PUT("/api/recordings/{id}/edits/", { params: { path: { id } }, body: { ...edits, cuts: [...edits.cuts], inserts: [...edits.inserts], markers: [...edits.markers], work_version: seen.latest() } })),
    seen,
  );

/** What is wanted of head and tail; null leaves it as it is. */
export interface Ends {
  head_s: number | null;
  tail_s: number | null;
  fade_in_s: number | null;
  fade_out_s: number | null;
}

/** Make the silence before the first word and after the last so long, and set the fades. */
export const useSetEnds = (id: string, seen: SeenVersion) =>
  useRecordingChange(
    id,
    (ends: Ends) =>
      unwrap(api.PUT("/api/recordings/{id}/ends/", { params: { path: { id } }, body: { ...ends, work_version: seen.latest() } })),
    seen,
  );

/** Pauses that are longer than this, and the cuts that would bring them to it. */
export function usePauses(recording: Recording, longestS: number | null) {
  return useQuery({
    queryKey: [...recordingKeys.one(recording.id), "pauses", recording.work_version, longestS],
    queryFn: () => unwrap(api.GET("/api/recordings/{id}/pauses/", { params: { path: { id: recording.id }, query: { longest_s: longestS ?? 0 } } })),
    enabled: longestS !== null && recording.state === "done",
    retry: false,
    staleTime: Infinity,
  });
}

/** Make a recording of each chapter that the markers make. */
export function useSplit(id: string) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: () => unwrap(api.POST("/api/recordings/{id}/split/", { params: { path: { id } } })),
    onSuccess: () => client.invalidateQueries({ queryKey: recordingKeys.all, exact: true }),
  });
}

/** What a stretch would be like as room tone. */
export function useRoomProfile(id: string, span: { startS: number; endS: number } | null) {
  return useQuery({
    queryKey: [...recordingKeys.one(id), "room-profile", span?.startS, span?.endS],
    queryFn: () =>
      unwrap(
        api.GET("/api/recordings/{id}/room-profile/", {
          params: { path: { id }, query: { start_s: span?.startS ?? 0, end_s: span?.endS ?? 0 } },
        }),
      ),
    enabled: span !== null,
    retry: false,
    staleTime: Infinity,
  });
}

/** Keep a span as room tone and use it. */
export const useMarkRoomTone = (id: string) =>
  useRecordingChange(id, (body: { start_s: number; end_s: number; name: string }) =>
    unwrap(api.POST("/api/recordings/{id}/mark-room-tone/", { params: { path: { id } }, body })),
  );

/** Use a room tone kept before; null lets it be found. */
export const useChooseRoomTone = (id: string) =>
  useRecordingChange(id, (tone: string | null) =>
    unwrap(
      api.PUT("/api/recordings/{id}/room-tone/", {
        params: { path: { id } },
        body: { room_tone: tone },
      }),
    ),
  );
