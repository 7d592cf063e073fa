import { afterEach, describe, expect, it, vi } from "vitest";

import { askSides, type Side } from "./sides";

const sides: Side[] = [
  { kind: "before", label: "As recorded" },
  { kind: "chain", label: "1. After EQ", steps: [], upto: 1 },
  { kind: "run", label: "Result", of: "r" },
];
const part = (data: Uint8Array) => {
  const out = new Uint8Array(4 + data.length);
  new DataView(out.buffer).setUint32(0, data.length, true);
  out.set(data, 4);
  return out;
};
const json = (value: unknown) => part(new TextEncoder().encode(JSON.stringify(value)));
const sound = (...values: number[]) => part(new Uint8Array(new Float32Array(values).buffer));
const head = json({ sample_rate_hz: 48000, start_s: 1, end_s: 2, count: 3 });
const told = (channels: number) => json({ channels, note: null, measures: {}, time_series: {}, differences: ["louder"] });

function answerWith(pieces: Uint8Array[], status = 200) {
  const asked: unknown[] = [];
  vi.stubGlobal("fetch", (_: string, init: RequestInit) => {
    asked.push(JSON.parse(init.body as string));
    const body = new ReadableStream({
      start(controller) {
        for (const piece of pieces) controller.enqueue(piece);
        controller.close();
      },
    });
    return Promise.resolve(new Response(body, { status }));
  });
  return asked;
}

afterEach(() => vi.unstubAllGlobals());

describe("asking for sides", () => {
  it("takes them as they come, tells how many are there, and sends no labels", async () => {
    const heard = vi.fn();
    const asked = answerWith([head, told(1), sound(0.1, 0.2), told(2), sound(1, 2, 3, 4), json({ error: "not there any more" }), part(new Uint8Array())]);
    const answer = await askSides("rec", { startS: 1, endS: 2 }, sides, heard);
    expect(answer).toMatchObject({ sampleRateHz: 48000, startS: 1, endS: 2 });
    expect(answer.heard.map((h) => h.channels.map((c) => c.length))).toEqual([[2], [2, 2], []]);
    expect(answer.heard[2]?.error).toBe("not there any more");
    expect(answer.heard[1]?.differences).toEqual(["louder"]);
    expect(heard.mock.calls.map(([count]) => count as number)).toContain(2);
    expect(asked).toEqual([{ start_s: 1, end_s: 2, sides: [{ kind: "before" }, { kind: "chain", steps: [], upto: 1 }, { kind: "run", of: "r" }] }]);
  });

  it.each([
    ["an answer that breaks off", [head, told(1)], 200, "broke off"],
    ["a refusal in the server's words", [new TextEncoder().encode('{"error":{"message":"passage: too long","code":"bad_input","path":null}}')], 400, "passage: too long"],
  ])("%s is reported", async (_, pieces, status, words) => {
    answerWith(pieces, status);
    await expect(askSides("rec", { startS: 1, endS: 2 }, sides, vi.fn())).rejects.toThrow(words);
  });

  it("a server that does not answer is reported", async () => {
    vi.stubGlobal("fetch", () => Promise.reject(new TypeError("network")));
    await expect(askSides("rec", { startS: 1, endS: 2 }, sides, vi.fn())).rejects.toThrow("does not answer");
  });
});
