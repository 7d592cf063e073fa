import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";

import { ApiError, api, asApiError, csrfToken, unwrap } from "../../api/client";
import type { Laid, Mix, Params, StartMix } from "../../api/types";
import { channelsOf, Parts } from "../live";
import { isBusy } from "../runs";

/** How a bed can lie under a voice. */
export function useBedSettings() {
  return useQuery({ queryKey: ["bed-settings"], queryFn: () => unwrap(api.GET("/api/bed-settings/")), staleTime: Infinity });
}

export interface LaidBed {
  told: Laid;
  voice: Float32Array<ArrayBuffer>[];
  mix: Float32Array<ArrayBuffer>[];
}

async function post(address: string, body: object): Promise<Response> {
  const answer = await fetch(address, {
    method: "POST", headers: { "X-CSRFToken": csrfToken(), "Content-Type": "application/json" }, body: JSON.stringify(body),
  }).catch(() => {
    throw new ApiError("The server does not answer. Is it still running?", "unreachable", null);
  });
  if (!answer.ok) throw asApiError(await answer.json().catch(() => null));
  return answer;
}

/** Voice alone and with the bed, over a stretch of the mix. */
export function useLaidBed(run: string | null, bed: string, params: Params, span: { startS: number; endS: number }) {
  return useQuery({
    queryKey: ["laid", run, bed, params, span],
    queryFn: async (): Promise<LaidBed> => {
      const answer = await post(`/api/runs/${run ?? ""}/bed/`, { bed, params, start_s: span.startS, end_s: span.endS });
      const [head, voice, mix] = new Parts().push(new Uint8Array(await answer.arrayBuffer()));
      if (!head || !voice || !mix) throw new ApiError("The mix broke off. Try again.", "broken", null);
      const told = JSON.parse(new TextDecoder().decode(head)) as Laid;
      return { told, voice: channelsOf(voice, told.channels), mix: channelsOf(mix, told.channels) };
    },
    enabled: run !== null && bed !== "",
    placeholderData: (before) => before,
    retry: false,
    gcTime: 60_000,
  });
}

const mixesOf = (recording: string) => ["mixes", recording] as const;

/** Mixes of a recording's results, newest first; asked again while one is made. */
export function useMixes(recording: string) {
  return useQuery({
    queryKey: mixesOf(recording),
    queryFn: () => unwrap(api.GET("/api/mixes/", { params: { query: { recording } } })),
    refetchInterval: (query) => (query.state.data?.some(isBusy) ? 400 : false),
  });
}

function useMixChange<T, R>(recording: string, change: (input: T) => Promise<R>) {
  const client = useQueryClient();
  return useMutation({ mutationFn: change, onSuccess: () => client.invalidateQueries({ queryKey: mixesOf(recording) }) });
}

/** Order a mix. */
export const useStartMix = (recording: string) =>
  useMixChange(recording, (body: StartMix): Promise<Mix> => unwrap(api.POST("/api/mixes/", { body })));

/** Remove a mix with its file; one at work is stopped. */
export const useDeleteMix = (recording: string) =>
  useMixChange(recording, (id: string) => unwrap(api.DELETE("/api/mixes/{id}/", { params: { path: { id } } })));
