/** What component tests share: the theme, a query client without retries, and a router. */

import createCache from "@emotion/cache";
import { CacheProvider } from "@emotion/react";
import { ThemeProvider } from "@mui/material/styles";
import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { render, type RenderResult } from "@testing-library/react";
import type { ReactNode } from "react";
import { MemoryRouter } from "react-router";
import { vi } from "vitest";

import type { Levels, Measures, Run, Setting } from "./api/types";
import { noEdits } from "./audio/cutTimes";
import { makeTheme } from "./app/theme";

const theme = makeTheme("light");
// Style sheets stay outside the document: working them out takes longer than the tests, and the tests
// in a real browser see them.
const unstyled = createCache({ key: "css", container: document.createElement("div") });

/** Render inside everything a page stands in. */
export function show(page: ReactNode, state?: object): RenderResult {
  const client = new QueryClient({ defaultOptions: { queries: { retry: false } } });
  return render(
    <CacheProvider value={unstyled}>
      <ThemeProvider theme={theme}>
        <QueryClientProvider client={client}>
          <MemoryRouter initialEntries={[{ pathname: "/", state }]}>{page}</MemoryRouter>
        </QueryClientProvider>
      </ThemeProvider>
    </CacheProvider>,
  );
}

export interface Asked {
  method: string;
  path: string;
  body: unknown;
}

/** Answer requests from a table of "METHOD /path" to JSON, or to [status, JSON]; returns what was asked. */
export function serve(answers: Record<string, unknown>): Asked[] {
  const asked: Asked[] = [];
  vi.stubGlobal("fetch", async (input: Request | string, init?: RequestInit) => {
    const request = typeof input === "string" ? new Request(new URL(input, "http://page/"), init) : input;
    const path = new URL(request.url).pathname;
    const text = await request.text();
    asked.push({ method: request.method, path, body: text ? (JSON.parse(text) as unknown) : null });
    // A promise answers when it is kept.
    const found = await answers[`${request.method} ${path}`];
    const [status, json] = Array.isArray(found) && typeof found[0] === "number" ? (found as [number, unknown]) : [200, found];
    if (status === 204) return new Response(null, { status });
    return new Response(JSON.stringify(json ?? { error: { message: `nothing at ${path}` } }), {
      status: found === undefined ? 404 : status,
      headers: { "Content-Type": "application/json" },
    });
  });
  return asked;
}

export const levels = (peak: number, voice: number, noise: number): Levels => ({
  true_peak_dbtp: peak, voice_level_dbfs: voice, noise_floor_dbfs: noise,
});

export const numberSetting: Setting = {
  name: "threshold_db", kind: "number", label: "Threshold", help: "Above this it turns down.", unit: "dB",
  low: -80, high: 30, usual: [-20, -12], increment: 0.5, scale: "linear", choices: [], words: {}, unit_by: null, word: null,
  most: null, matters_for: [], record: null, default: -18,
};

/** A finished run, changed as wanted. */
export function someRun(changes: Partial<Run> = {}): Run {
  const measures = { ...levels(-3, -22, -60), clearance_db: 38, integrated_lufs: -20 } as Measures;
  return {
    id: "run-1", recording: "rec-1", recording_name: "Hide guide", channels: 1, ...noEdits, cuts: [], inserts: [], markers: [], duration_s: 30, batch: null, chain: [],
    recipe_name: "Calm", recipe_version: 1, engine_version: "1", before: measures, after: measures, points: [],
    room_tone: null, notes: [], mended: {}, differences: [], delivery: null, target_name: null, voice_gain_db: null, label: "", clipped_samples: 0, started_at: null, state: "done", progress: 1, doing: "",
    error: "", error_code: "", created_at: "2026-11-24T10:00:00Z", finished_at: null, ...changes,
  };
}
