/** Looks at a stretch of a recording or of a result: waveform, spectrogram, figures. */

import { keepPreviousData, useQuery } from "@tanstack/react-query";

import { api, unwrap } from "../../api/client";
import type { Figures, Overview, Spectrogram } from "../../api/types";
import type { TimeSpan } from "./mirrorView";

/** What is looked at; times of a result are its own. */
export interface Sound {
  kind: "recordings" | "runs";
  id: string;
}

const BINS = 4000;

function stretch(id: string, { startS, endS }: TimeSpan) {
  return { path: { id }, query: { start_s: Math.max(0, startS), end_s: endS } };
}

/** Finer waveform of a stretch; nothing is asked without one. */
export function useDetail(sound: Sound | null, span: TimeSpan | null) {
  return useQuery({
    queryKey: ["look", "overview", sound, span],
    queryFn: (): Promise<Overview> => {
      const { path, query } = stretch(sound?.id ?? "", span ?? { startS: 0, endS: 0 });
      const params = { path, query: { ...query, bins: BINS } };
      return sound?.kind === "runs"
        ? unwrap(api.GET("/api/runs/{id}/overview/", { params }))
        : unwrap(api.GET("/api/recordings/{id}/overview/", { params }));
    },
    enabled: sound !== null && span !== null,
    placeholderData: keepPreviousData,
    staleTime: 60_000,
    gcTime: 60_000,
  });
}

/** Spectrogram of a stretch. */
export function useSpectrogram(sound: Sound | null, span: TimeSpan | null, columns: number) {
  return useQuery({
    queryKey: ["look", "spectrogram", sound, span, columns],
    queryFn: (): Promise<Spectrogram> => {
      const { path, query } = stretch(sound?.id ?? "", span ?? { startS: 0, endS: 0 });
      const params = { path, query: { ...query, columns } };
      return sound?.kind === "runs"
        ? unwrap(api.GET("/api/runs/{id}/spectrogram/", { params }))
        : unwrap(api.GET("/api/recordings/{id}/spectrogram/", { params }));
    },
    enabled: sound !== null && span !== null,
    placeholderData: keepPreviousData,
    staleTime: 60_000,
    gcTime: 60_000,
  });
}

/** Peaks, RMS and loudness of a stretch. */
export function useFigures(sound: Sound | null, span: TimeSpan | null) {
  return useQuery({
    queryKey: ["look", "figures", sound, span],
    queryFn: (): Promise<Figures> => {
      const params = stretch(sound?.id ?? "", span ?? { startS: 0, endS: 0 });
      return sound?.kind === "runs"
        ? unwrap(api.GET("/api/runs/{id}/figures/", { params }))
        : unwrap(api.GET("/api/recordings/{id}/figures/", { params }));
    },
    enabled: sound !== null && span !== null,
    retry: false,
    staleTime: 60_000,
  });
}
