import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";

import { noEdits } from "./cutTimes";
import { Loop, phaseOf, type LoopSound } from "./loop";

const RATE = 1000;
let nowS = 0;

class Param {
  value = 1;
  readonly calls: [string, number, number][] = [];
  setValueAtTime(value: number, at: number) {
    this.value = value;
    this.calls.push(["set", value, at]);
  }
  linearRampToValueAtTime(value: number, at: number) {
    this.value = value;
    this.calls.push(["ramp", value, at]);
  }
  cancelScheduledValues() {
    this.calls.push(["cancel", 0, 0]);
  }
}
class Node {
  gain = new Param();
  connect = vi.fn();
  disconnect = vi.fn();
}
class Source extends Node {
  loop = false;
  buffer: unknown = null;
  onended: (() => void) | null = null;
  start = vi.fn();
  stop = vi.fn();
}
const sources: Source[] = [];
class Context {
  destination = {};
  get currentTime() {
    return nowS;
  }
  createGain = () => new Node();
  createBufferSource = () => {
    const made = new Source();
    sources.push(made);
    return made;
  };
  createAnalyser = () => ({ fftSize: 0, getFloatTimeDomainData: vi.fn() });
  createChannelSplitter = () => ({ connect: vi.fn() });
  createBuffer = (channels: number, length: number) => ({ channels, length, copyToChannel: vi.fn() });
  resume = () => Promise.resolve();
  close = () => Promise.resolve();
}

const sound = (startS = 10, lengthS = 4): LoopSound => {
  const channel = new Float32Array(RATE * lengthS);
  return { sampleRateHz: RATE, startS, before: [channel], after: [channel], louderDb: 6, voiceGainDb: 6 };
};

beforeEach(() => {
  nowS = 0;
  sources.length = 0;
  vi.stubGlobal("AudioContext", Context);
});
afterEach(() => vi.unstubAllGlobals());

describe("the loop", () => {
  it.each([
    [0, 4, 0],
    [9.5, 4, 1.5],
    [-0.5, 4, 3.5],
    [3, 0, 0],
  ])("is at phase of %s s in %s s: %s s", (since, length, phase) => {
    expect(phaseOf(since, length)).toBeCloseTo(phase);
  });

  it("plays as soon as there is sound when it was asked before, unless it was stopped", async () => {
    const loop = new Loop();
    loop.toggle();
    loop.toggle();
    loop.take(sound(), noEdits);
    expect(loop.snapshot().playing).toBe(false);
    const early = new Loop();
    await early.play();
    expect(early.snapshot().playing).toBe(false);
    early.take(sound(), noEdits);
    expect(early.snapshot().playing).toBe(true);
    await vi.waitFor(() => expect(sources).toHaveLength(2));
  });

  it("goes on at the same instant when the sound is replaced", async () => {
    const loop = new Loop();
    loop.take(sound(), noEdits);
    await loop.play();
    nowS = 5.5;
    expect(loop.timeNowS).toBeCloseTo(10 + 1.5 - 0.015);
    loop.take(sound(), noEdits);
    const [, , before, after] = sources;
    // Both sides begin together, where the loop will be at that moment, and the old ones fade out.
    expect(before?.start).toHaveBeenCalledWith(5.515, expect.closeTo(1.5, 5));
    expect(after?.start).toHaveBeenCalledWith(5.515, expect.closeTo(1.5, 5));
    expect(sources[0]?.stop).toHaveBeenCalled();
    expect(after?.loop).toBe(true);
    loop.close();
  });

  it("keeps its place in the recording when the passage moves, and seeks within it", async () => {
    const loop = new Loop();
    loop.take(sound(10), noEdits);
    loop.seek(12);
    expect(loop.snapshot().timeS).toBeCloseTo(12);
    loop.take(sound(11), noEdits);
    expect(loop.timeNowS).toBeCloseTo(12);
    loop.take(sound(20), noEdits);
    expect(loop.timeNowS).toBeCloseTo(20);
    await loop.play();
    loop.seek(99);
    loop.pause();
    expect(loop.timeNowS).toBeLessThanOrEqual(24);
    loop.close();
  });

  it("tells times of the recording, past its cuts", () => {
    const loop = new Loop();
    loop.take(sound(10), { ...noEdits, cuts: [{ start_s: 5, end_s: 8 }] });
    loop.seek(14);
    expect(loop.timeNowS).toBeCloseTo(14);
    expect(loop.snapshot().timeS).toBeCloseTo(14);
  });

  it("matches and takes away by gains", async () => {
    const loop = new Loop();
    loop.take(sound(), noEdits);
    await loop.play();
    const gainOf = (source: Source | undefined) => (source?.connect.mock.calls[0]?.[0] as Node).gain.value;
    loop.choose("removed");
    expect([gainOf(sources[0]), gainOf(sources[1])]).toEqual([-1, 10 ** (-6 / 20)]);
    loop.choose("after");
    loop.match(true);
    expect(gainOf(sources[1])).toBeCloseTo(10 ** (-6 / 20));
    loop.close();
    expect(loop.snapshot().playing).toBe(false);
  });
});
