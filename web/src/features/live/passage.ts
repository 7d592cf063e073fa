/** A passage through a chain, as the server sends it: head, samples, tail, each behind its length. */

import { ApiError, asApiError, csrfToken } from "../../api/client";
import type { PassageHead, PassageTail, Step } from "../../api/types";

export interface Asked {
  steps: Step[];
  startS: number;
  endS: number;
  withBefore: boolean;
  /** Place of the step whose picture is wanted. */
  opened: number | null;
}

export interface Given {
  head: PassageHead;
  /** Channels before (where asked for), then after. */
  channels: Float32Array<ArrayBuffer>[];
}

/** Takes bytes as they come and gives the parts that are whole. */
export class Parts {
  private held = new Uint8Array(0);

  push(bytes: Uint8Array): Uint8Array<ArrayBuffer>[] {
    const all = new Uint8Array(this.held.length + bytes.length);
    all.set(this.held);
    all.set(bytes, this.held.length);
    const parts: Uint8Array<ArrayBuffer>[] = [];
    let at = 0;
    while (all.length - at >= 4) {
      const size = new DataView(all.buffer, at).getUint32(0, true);
      if (all.length - at - 4 < size) break;
      parts.push(all.slice(at + 4, at + 4 + size));
      at += 4 + size;
    }
    this.held = all.slice(at);
    return parts;
  }
}

/** Samples of a part, channel after channel. */
export function channelsOf(part: Uint8Array<ArrayBuffer>, count: number): Float32Array<ArrayBuffer>[] {
  const all = new Float32Array(part.buffer, part.byteOffset, part.byteLength / 4);
  const length = all.length / count;
  return Array.from({ length: count }, (_, i) => all.slice(i * length, (i + 1) * length));
}

/** Ask for a passage; `onSound` is called as soon as there is something to hear, before the tail. */
export async function askPassage(recordingId: string, asked: Asked, onSound: (given: Given) => void): Promise<PassageTail> {
  const answer = await fetch(`/api/recordings/${recordingId}/passage/`, {
    method: "POST",
    headers: { "Content-Type": "application/json", "X-CSRFToken": csrfToken() },
    body: JSON.stringify({
      steps: asked.steps, start_s: asked.startS, end_s: asked.endS, with_before: asked.withBefore, opened: asked.opened,
    }),
  }).catch(() => {
    throw new ApiError("The server does not answer. Is it still running?", "unreachable", null);
  });
  if (!answer.ok || !answer.body) throw asApiError(await answer.json().catch(() => null));
  const reader = answer.body.getReader();
  const parts = new Parts();
  let head: PassageHead | null = null;
  let heard = false;
  for (;;) {
    const { done, value } = await reader.read();
    if (done) throw new ApiError("The passage broke off. Change a setting to try again.", "broken", null);
    for (const part of parts.push(value)) {
      if (!head) head = JSON.parse(new TextDecoder().decode(part)) as PassageHead;
      else if (!heard) {
        heard = true;
        onSound({ head, channels: channelsOf(part, head.channels * (asked.withBefore ? 2 : 1)) });
      } else return toldTail(JSON.parse(new TextDecoder().decode(part)) as PassageTail | { error: string });
    }
  }
}

function toldTail(tail: PassageTail | { error: string }): PassageTail {
  if ("error" in tail) throw new ApiError(tail.error, "failed", null);
  return tail;
}
