import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";

import { ApiError, api, asApiError, csrfToken, unwrap } from "../../api/client";
import type { Laid, Params } from "../../api/types";
import { channelsOf, Parts } from "../live";

const bedsKey = ["beds"] as const;

/** All beds, by name. */
export function useBeds() {
  return useQuery({ queryKey: bedsKey, queryFn: () => unwrap(api.GET("/api/beds/")) });
}

/** How a bed can lie under a voice. */
export function useBedSettings() {
  return useQuery({ queryKey: ["bed-settings"], queryFn: () => unwrap(api.GET("/api/bed-settings/")), staleTime: Infinity });
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

/** Fetch the whole mix as a file. */
export function useFetchMix() {
  return useMutation({
    mutationFn: async ({ run, bed, params }: { run: string; bed: string; params: Params }) => {
      const answer = await post(`/api/runs/${run}/mix/`, { bed, params });
      const name = /filename="([^"]+)"/.exec(answer.headers.get("Content-Disposition") ?? "")?.[1] ?? "mix.wav";
      const link = document.createElement("a");
      link.href = URL.createObjectURL(await answer.blob());
      link.download = name;
      link.click();
      setTimeout(() => URL.revokeObjectURL(link.href), 1000);
      return name;
    },
  });
}
