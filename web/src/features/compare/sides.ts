/** Sounds of one passage side by side, as the server sends them. */

import { useQuery } from "@tanstack/react-query";

import { ApiError, asApiError, csrfToken } from "../../api/client";
import type { TimeSeries, Measures, Step, ToldSide } from "../../api/types";
import { sideGains } from "../../audio/playback";
import { channelsOf, Parts, type PassageSpan } from "../live";

/** What a side is; its label is for people only. */
export type Side = { label: string } & (
  | { kind: "before" }
  | { kind: "chain"; steps: Step[]; upto?: number }
  | { kind: "run"; of: string; start_s?: number }
  | { kind: "recording"; of: string; start_s?: number }
);

export interface Heard {
  error: string | null;
  note: string | null;
  measures: Measures | null;
  timeSeries: TimeSeries | null;
  differences: string[];
  /** Gain of the voice from the first side, in dB. */
  voiceGainDb: number | null;
  channels: Float32Array<ArrayBuffer>[];
}

export interface Sides {
  sampleRateHz: number;
  startS: number;
  endS: number;
  heard: Heard[];
}

const text = (part: Uint8Array) => new TextDecoder().decode(part);

/** As the server wants it: a label is for people only. */
export function withoutLabel(side: Side): Omit<Side, "label"> {
  const { kind } = side;
  if (kind === "before") return { kind };
  if (kind === "chain") return { kind, steps: side.steps, ...(side.upto !== undefined && { upto: side.upto }) } as Omit<Side, "label">;
  return { kind, of: side.of, ...(side.start_s !== undefined && { start_s: side.start_s }) } as Omit<Side, "label">;
}

/** Ask for all sides of a passage; `onHeard` is called as each one is there. */
export async function askSides(recordingId: string, span: PassageSpan, sides: readonly Side[], onHeard: (count: number) => void): Promise<Sides> {
  const answer = await fetch(`/api/recordings/${recordingId}/sides/`, {
    method: "POST",
    headers: { "Content-Type": "application/json", "X-CSRFToken": csrfToken() },
    body: JSON.stringify({ start_s: span.startS, end_s: span.endS, sides: sides.map(withoutLabel) }),
  }).catch(() => {
    throw new ApiError("The server does not answer. Is it still running?", "unreachable", null);
  });
  if (!answer.ok || !answer.body) throw asApiError(await answer.json().catch(() => null));
  const reader = answer.body.getReader();
  const parts = new Parts();
  const got: Uint8Array<ArrayBuffer>[] = [];
  for (;;) {
    const { done, value } = await reader.read();
    if (done) break;
    got.push(...parts.push(value));
    onHeard(Math.max(0, Math.floor((got.length - 1) / 2)));
  }
  const [first, ...rest] = got;
  if (!first || rest.length < 2 * sides.length) throw new ApiError("The comparison broke off. Try again.", "broken", null);
  const head = JSON.parse(text(first)) as { sample_rate_hz: number; start_s: number; end_s: number };
  const heard = sides.map((_, i): Heard => {
    const told = JSON.parse(text(rest[2 * i] ?? new Uint8Array())) as Partial<ToldSide>;
    const channels = told.error === undefined ? channelsOf(rest[2 * i + 1] ?? new Uint8Array(), told.channels ?? 1) : [];
    return {
      error: told.error ?? null, note: told.note ?? null, measures: told.measures ?? null, timeSeries: told.time_series ?? null,
      differences: told.differences ?? [], voiceGainDb: told.voice_gain_db ?? null, channels,
    };
  });
  return { sampleRateHz: head.sample_rate_hz, startS: head.start_s, endS: head.end_s, heard };
}

/** All sides of a passage; nothing is asked without one. */
export function useSides(recordingId: string, span: PassageSpan | null, sides: readonly Side[] | null, onHeard: (count: number) => void = () => undefined) {
  return useQuery({
    queryKey: ["sides", recordingId, span, sides],
    queryFn: () => askSides(recordingId, span ?? { startS: 0, endS: 0 }, sides ?? [], onHeard),
    enabled: span !== null && sides !== null && sides.length > 0,
    retry: false,
    staleTime: Infinity,
    gcTime: 120_000,
  });
}

/** Level of what is heard as removed, `b` being `byDb` louder than `a`, in dBFS; null without sound. */
export function removedDbfs(a: Heard, b: Heard, byDb: number): number | null {
  const gains = sideGains("removed", false, { louderDb: null, voiceGainDb: byDb });
  const [one, other] = [a.channels[0], b.channels[0]];
  const length = Math.min(one?.length ?? 0, other?.length ?? 0);
  if (!one || !other || length === 0) return null;
  let power = 0;
  for (let i = 0; i < length; i += 1) power += ((other[i] ?? 0) * gains.after + (one[i] ?? 0) * gains.before) ** 2;
  return power > 0 ? 10 * Math.log10(power / length) : null;
}
