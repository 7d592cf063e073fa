import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";

import { api, unwrap } from "../../api/client";
import type { Recording, Step } from "../../api/types";
import type { Edits } from "../../audio/cutTimes";
import { recordingKeys } from "../recordings";
import type { Origin } from "./chainHistory";

function useRecordingChange<T>(id: string, change: (input: T) => Promise<Recording>) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: change,
    // One change after the other: an older answer must not overtake a newer one.
    scope: { id: `recording-${id}` },
    onSuccess: (recording) => {
      client.setQueryData(recordingKeys.one(id), recording);
      void client.invalidateQueries({ queryKey: recordingKeys.all, exact: true });
      void client.invalidateQueries({ queryKey: ["room-tones"] });
    },
  });
}

/** Replace the chain, and where it came from if that is another. */
export const useSetChain = (id: string) =>
  useRecordingChange(id, ({ steps, origin }: { steps: Step[]; origin: Origin | null }) =>
    unwrap(api.PUT("/api/recordings/{id}/chain/", { params: { path: { id } }, body: { steps, ...origin } })),
  );

/** Set which findings are not to be told again. */
export const useDismiss = (id: string) =>
  useRecordingChange(id, (dismissed: string[]) =>
    unwrap(api.PATCH("/api/recordings/{id}/", { params: { path: { id } }, body: { dismissed } })),
  );

/** Make a recipe's steps the chain. */
export const useApplyRecipeHere = (id: string) =>
  useRecordingChange(id, (recipe: string) =>
    unwrap(
      api.POST("/api/recordings/{id}/apply-recipe/", { params: { path: { id } }, body: { recipe } }),
    ),
  );

/** Choose what its delivery must meet; null for nothing. */
export const useSetTarget = (id: string) =>
  useRecordingChange(id, (target: string | null) =>
    unwrap(api.PUT("/api/recordings/{id}/target/", { params: { path: { id } }, body: { target } })),
  );

/** Replace cuts, choice of channel and what is added at the ends. */
export const useSetEdits = (id: string) =>
  useRecordingChange(id, (edits: Edits) =>
    unwrap(api.PUT("/api/recordings/{id}/edits/", { params: { path: { id } }, body: { ...edits, cuts: [...edits.cuts] } })),
  );

/** Make the silence before the first word and after the last so long. */
export const useSetEnds = (id: string) =>
  useRecordingChange(id, (body: { head_s: number | null; tail_s: number | null }) =>
    unwrap(api.PUT("/api/recordings/{id}/ends/", { params: { path: { id } }, body })),
  );

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
