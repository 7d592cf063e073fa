/** Loudness, levels, spectrum and spectrogram of a result and of what went into it. */

import { keepPreviousData, useQuery } from "@tanstack/react-query";

import { api, unwrap } from "../../api/client";
import type { TimeSeries, Spectrogram } from "../../api/types";
import type { PassageSpan } from "../live";

const POINTS = 500;
const COLUMNS = 500;

const query = (span: PassageSpan | null, side: "before" | "after") => ({
  start_s: span?.startS ?? 0, ...(span && { end_s: span.endS }), side,
});

/** Over the whole, or over a span. */
export function useTimeSeries(run: string | null, side: "before" | "after", span: PassageSpan | null) {
  return useQuery({
    queryKey: ["look", "time series", run, side, span],
    queryFn: (): Promise<TimeSeries> =>
      unwrap(api.GET("/api/runs/{id}/time-series/", { params: { path: { id: run ?? "" }, query: { ...query(span, side), points: POINTS } } })),
    enabled: run !== null,
    placeholderData: keepPreviousData,
    staleTime: Infinity,
    retry: false,
  });
}

/** Over the whole, or over a span. */
export function useSpectrogramOf(run: string | null, side: "before" | "after", span: PassageSpan | null) {
  return useQuery({
    queryKey: ["look", "spectrogram of", run, side, span],
    queryFn: (): Promise<Spectrogram> =>
      unwrap(api.GET("/api/runs/{id}/spectrogram/", { params: { path: { id: run ?? "" }, query: { ...query(span, side), columns: COLUMNS } } })),
    enabled: run !== null,
    placeholderData: keepPreviousData,
    staleTime: Infinity,
    retry: false,
  });
}
