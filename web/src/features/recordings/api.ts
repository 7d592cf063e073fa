import { keepPreviousData, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";

import { api, unwrap } from "../../api/client";
import { recordingsKey } from "../../api/queryClient";
import type { Overview, Recording } from "../../api/types";

export const recordingKeys = {
  all: recordingsKey,
  one: (id: string) => ["recordings", id] as const,
  overview: (id: string) => ["recordings", id, "overview"] as const,
};

/** What deleting and taking back change, besides the list. */
export const awayKeys = { putAway: ["put-away"] as const, space: ["space"] as const };

const GROWING_MS = 800;

const busy = (recording: Recording) =>
  recording.state === "waiting" || recording.state === "running";

/** All recordings; asked again while any is being measured. */
export function useRecordings() {
  return useQuery({
    queryKey: recordingKeys.all,
    queryFn: () => unwrap(api.GET("/api/recordings/")),
    refetchInterval: (query) => (query.state.data?.some(busy) ? 700 : false),
  });
}

/** Waveform of a whole recording in at most `bins` bins. */
export function useRecordingOverview(recording: Recording, bins: number) {
  return useQuery({
    queryKey: [...recordingKeys.overview(recording.id), bins, recording.state === "done"],
    placeholderData: keepPreviousData,
    queryFn: (): Promise<Overview> =>
      unwrap(
        api.GET("/api/recordings/{id}/overview/", {
          params: { path: { id: recording.id }, query: { bins } },
        }),
      ),
    // While it is measured, what is known of the waveform grows; before a first piece there is none.
    enabled: recording.state === "done" || (recording.state === "running" && recording.progress > 0),
    refetchInterval: recording.state === "running" ? GROWING_MS : false,
    retry: false,
    staleTime: recording.state === "done" ? Infinity : 0,
  });
}

/** Delete a recording; it can be taken back. */
export function useDeleteRecording() {
  const client = useQueryClient();
  return useMutation({
    mutationFn: (id: string) =>
      unwrap(api.DELETE("/api/recordings/{id}/", { params: { path: { id } } })),
    onSuccess: () => client.invalidateQueries({ queryKey: recordingKeys.all }),
  });
}

/** Take a deleted recording back. */
export function useTakeBack() {
  const client = useQueryClient();
  return useMutation({
    mutationFn: async (ids: string[]) => {
      for (const id of ids) {
        await unwrap(api.POST("/api/recordings/{id}/take-back/", { params: { path: { id } } }));
      }
    },
    onSettled: () =>
      Promise.all([recordingKeys.all, awayKeys.putAway, awayKeys.space].map((queryKey) => client.invalidateQueries({ queryKey }))),
  });
}

/** Measure a recording again that could not be measured. */
export function useRetryMeasuring() {
  const client = useQueryClient();
  return useMutation({
    mutationFn: (id: string) => unwrap(api.POST("/api/recordings/{id}/retry/", { params: { path: { id } } })),
    onSettled: () => client.invalidateQueries({ queryKey: recordingKeys.all }),
  });
}

/** What a person may say about a recording. */
export type Description = Partial<Pick<Recording, "name" | "label" | "group" | "take" | "notes">>;

/** Say the same about several recordings. */
export function useDescribeRecordings() {
  const client = useQueryClient();
  return useMutation({
    mutationFn: async ({ ids, words }: { ids: string[]; words: Description }) => {
      for (const id of ids) {
        await unwrap(api.PATCH("/api/recordings/{id}/", { params: { path: { id } }, body: words }));
      }
    },
    onSuccess: () => client.invalidateQueries({ queryKey: recordingKeys.all }),
  });
}

/** Apply a recipe to several recordings; the first fault stops it. */
export function useApplyRecipe() {
  const client = useQueryClient();
  return useMutation({
    mutationFn: async ({ ids, recipe, onApplied }: { ids: string[]; recipe: string; onApplied: (id: string) => void }) => {
      for (const id of ids) {
        await unwrap(
          api.POST("/api/recordings/{id}/apply-recipe/", {
            params: { path: { id } },
            body: { recipe },
          }),
        );
        onApplied(id);
      }
    },
    onSettled: () => client.invalidateQueries({ queryKey: recordingKeys.all }),
  });
}

/** Give recordings the chains back that they had, and say again where those came from. */
export function useChainsBack() {
  const client = useQueryClient();
  return useMutation({
    mutationFn: async (before: readonly Recording[]) => {
      for (const { id, chain, recipe, recipe_version } of before) {
        await unwrap(api.PUT("/api/recordings/{id}/chain/", { params: { path: { id } }, body: { steps: [...chain], recipe, recipe_version } }));
      }
    },
    onSettled: () => client.invalidateQueries({ queryKey: recordingKeys.all }),
  });
}

/** One recording; asked again while it is being measured. */
export function useRecording(id: string) {
  return useQuery({
    queryKey: recordingKeys.one(id),
    queryFn: () => unwrap(api.GET("/api/recordings/{id}/", { params: { path: { id } } })),
    refetchInterval: (query) => (query.state.data && busy(query.state.data) ? 600 : false),
  });
}

/** A chain made for this recording and its target. */
export function useProposal(recording: Recording | undefined, wanted: boolean) {
  const id = recording?.id ?? "";
  return useQuery({
    queryKey: [...recordingKeys.one(id), "proposal", recording?.work_version, recording?.target],
    queryFn: () => unwrap(api.GET("/api/recordings/{id}/proposal/", { params: { path: { id } } })),
    enabled: wanted && recording?.state === "done",
    retry: false,
    staleTime: Infinity,
  });
}
