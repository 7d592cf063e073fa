import { afterEach, describe, expect, it, vi } from "vitest";

import { askPassage, channelsOf, Parts, type Asked } from "./passage";

function part(bytes: Uint8Array): Uint8Array<ArrayBuffer> {
  const all = new Uint8Array(4 + bytes.length);
  new DataView(all.buffer).setUint32(0, bytes.length, true);
  all.set(bytes, 4);
  return all;
}
const json = (value: unknown) => part(new TextEncoder().encode(JSON.stringify(value)));
const samples = (...values: number[]) => part(new Uint8Array(new Float32Array(values).buffer));
const joined = (...parts: Uint8Array[]) => new Uint8Array(parts.flatMap((p) => [...p]));
const asked: Asked = { steps: [], startS: 0, endS: 1, withBefore: true, opened: 0 };
const head = { sample_rate_hz: 48_000, channels: 1 };
const tail = { points: [], advice: [], picture: null };

afterEach(() => vi.unstubAllGlobals());

/** Answers with these bytes in pieces of a few. */
function answering(bytes: Uint8Array, status = 200) {
  const body = new ReadableStream<Uint8Array>({
    start(controller) {
      for (let at = 0; at < bytes.length; at += 5) controller.enqueue(bytes.slice(at, at + 5));
      controller.close();
    },
  });
  vi.stubGlobal("fetch", vi.fn(() => Promise.resolve(new Response(body, { status }))));
}

describe("a passage from the server", () => {
  it("comes in parts of any size", () => {
    const parts = new Parts();
    const whole = joined(part(new Uint8Array([1, 2, 3])), part(new Uint8Array([])), part(new Uint8Array([4])));
    const found = [...whole].flatMap((byte) => parts.push(new Uint8Array([byte])));
    expect(found.map((f) => [...f])).toEqual([[1, 2, 3], [], [4]]);
  });

  it("has channel after channel", () => {
    const bytes = new Uint8Array(new Float32Array([1, 2, 3, 4, 5, 6]).buffer);
    expect(channelsOf(bytes, 2).map((c) => [...c])).toEqual([[1, 2, 3], [4, 5, 6]]);
  });

  it("is heard before its figures are shown", async () => {
    answering(joined(json(head), samples(0.5, -0.5), json(tail)));
    const heard = vi.fn();
    await expect(askPassage("r", asked, heard)).resolves.toEqual(tail);
    expect(heard).toHaveBeenCalledOnce();
    const [given] = heard.mock.calls[0] as [{ channels: Float32Array[] }];
    expect(given.channels.map((c) => [...c])).toEqual([[0.5], [-0.5]]);
  });

  it.each([
    [json({ error: { message: "steps[0].type: no such step", code: "bad_setting", path: null } }).slice(4), 400, "steps[0].type: no such step"],
    [joined(json(head), samples(1, 1)), 200, "The passage broke off"],
    [joined(json(head), samples(1, 1), json({ error: "No pictures." })), 200, "No pictures."],
  ])("says what went wrong", async (bytes, status, told) => {
    answering(bytes, status);
    await expect(askPassage("r", asked, vi.fn())).rejects.toThrow(told);
  });

  it("says when nobody answers", async () => {
    vi.stubGlobal("fetch", vi.fn(() => Promise.reject(new TypeError("network"))));
    await expect(askPassage("r", asked, vi.fn())).rejects.toThrow("does not answer");
  });
});
