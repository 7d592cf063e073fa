import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";

import { matchGains, SideLoop, type SideSound } from "./sideLoop";

const RATE = 1000;
let nowS = 0;
const started: { at: number; offset: number }[] = [];
const gains: { value: number; ramps: number[] }[] = [];

class Context {
  destination = {};
  get currentTime() {
    return nowS;
  }
  createGain = () => {
    const told = { value: 1, ramps: [] as number[] };
    gains.push(told);
    return {
      gain: {
        get value() { return told.value; },
        set value(v: number) { told.value = v; },
        cancelScheduledValues: vi.fn(),
        setValueAtTime: vi.fn(),
        linearRampToValueAtTime: (v: number) => { told.value = v; told.ramps.push(v); },
      },
      connect: vi.fn(), disconnect: vi.fn(),
    };
  };
  createBufferSource = () => ({ connect: vi.fn(), start: (at: number, offset: number) => started.push({ at, offset }), stop: vi.fn() });
  createBuffer = () => ({ copyToChannel: vi.fn() });
  resume = () => Promise.resolve();
  close = () => Promise.resolve();
}

const sound = (lufs: number | null, lengthS = 4): SideSound => ({ channels: [new Float32Array(RATE * lengthS)], lufs });

beforeEach(() => {
  nowS = 0;
  started.length = 0;
  gains.length = 0;
  vi.stubGlobal("AudioContext", Context);
});
afterEach(() => vi.unstubAllGlobals());

describe("several sounds in step", () => {
  it.each([
    [[-20, -26, -23], true, [-6, 0, -3]],
    [[-20, -26, -23], false, [0, 0, 0]],
    // A silent one has no loudness and is left alone.
    [[-20, null, -23], true, [-3, 0, 0]],
  ])("%j matched %s: nothing is turned up", (levels, matched, db) => {
    const factors = matchGains(levels.map((l) => sound(l)), matched);
    expect(factors.map((f) => Math.round(20 * Math.log10(f) * 10) / 10 + 0)).toEqual(db);
  });

  it("all start at one instant, one is heard, and switching moves nothing", async () => {
    const loop = new SideLoop();
    loop.take([sound(-20), sound(-20), sound(-20)], RATE);
    await loop.play();
    expect(new Set(started.map((s) => `${s.at} ${s.offset}`)).size).toBe(1);
    expect(gains.map((g) => g.value)).toEqual([1, 0, 0]);
    nowS = 1.03;
    loop.choose(2);
    expect(gains.map((g) => g.value)).toEqual([0, 0, 1]);
    expect(started).toHaveLength(3);
    expect(loop.phaseNowS).toBeCloseTo(1);
  });

  it("goes on from where it was stopped", async () => {
    const loop = new SideLoop();
    loop.take([sound(-20), sound(-20, 2)], RATE);
    await loop.play();
    nowS = 1.53;
    loop.pause();
    expect(loop.snapshot().playing).toBe(false);
    await loop.play();
    expect(started.at(-1)?.offset).toBeCloseTo(1.5);
    // Other sounds begin anew.
    loop.take([sound(-20)], RATE);
    expect(loop.phaseNowS).toBe(0);
    loop.close();
  });

  it("without a sound nothing plays", async () => {
    const loop = new SideLoop();
    await loop.play();
    expect(loop.snapshot().playing).toBe(false);
  });
});
