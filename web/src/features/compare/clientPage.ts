/** The page for a client: where it is fetched, and what of a result it holds. */

import { ApiError, asApiError, csrfToken } from "../../api/client";
import { download } from "../../api/download";
import type { Recording, Run } from "../../api/types";
import { formatTime } from "../../pictures/figures";
import type { PassageSpan } from "../live";
import { withoutLabel, type Side } from "./sides";

/** More would make a page that no mail takes. */
const LONGEST_S = 600;

/** Its address: of the stretch that is looked at, else from the beginning. */
export function clientPage(run: Run, span: PassageSpan | null): string {
  const query = span ? `?start_s=${span.startS}&end_s=${span.endS}` : "";
  return `/api/runs/${run.id}/client-page/${query}`;
}

/** What it holds, in words. */
export function clientPageHolds(run: Run, span: PassageSpan | null): string {
  const startS = span?.startS ?? 0;
  const endS = Math.min(span?.endS ?? run.duration_s, startS + LONGEST_S);
  if (startS === 0 && endS === run.duration_s) return "Holds the whole";
  const other = span ? "as the pictures do" : "drag over the loudness to choose another stretch";
  return `Holds ${formatTime(startS)} to ${formatTime(endS)}; ${other}`;
}

/** Have a page made of several versions of a passage, and download it. */
export async function fetchVersionsPage(recording: Recording, span: PassageSpan, sides: readonly Side[], names: readonly string[]): Promise<void> {
  const answer = await fetch(`/api/recordings/${recording.id}/client-page/`, {
    method: "POST",
    headers: { "Content-Type": "application/json", "X-CSRFToken": csrfToken() },
    body: JSON.stringify({ start_s: span.startS, end_s: span.endS, sides: sides.map(withoutLabel), names }),
  }).catch(() => {
    throw new ApiError("The server does not answer. Is it still running?", "unreachable", null);
  });
  if (!answer.ok) throw asApiError(await answer.json().catch(() => null));
  const address = URL.createObjectURL(await answer.blob());
  download(address, `${recording.name}, ${sides.length} versions.html`);
  setTimeout(() => URL.revokeObjectURL(address));
}
