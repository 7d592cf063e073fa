import { describe, expect, it } from "vitest";

import { loudest, typical } from "./levelFigures";
import { afterHunt, asBand, freshBand, type Band, asRecord, bandWords, cutAt, hunting, moved, narrower } from "./bands";
import { linear, linePath, logarithmic } from "../../../pictures/scales";

const bell = asBand({ type: "bell", freq_hz: 1000, gain_db: -3, q: 1 });
const pass = asBand({ type: "high_pass", freq_hz: 80, slope_db_oct: 24 });

describe("bands of the EQ", () => {
  it("are records and back", () => {
    expect(asBand(asRecord(bell))).toEqual(bell);
  });

  it.each([
    [bell, "1.00 kHz, −3.0 dB, Q 1"],
    [pass, "80 Hz, 24 dB per octave"],
    [{ ...bell, enabled: false }, "1.00 kHz, −3.0 dB, Q 1, off"],
  ])("are put in words", (band, words) => {
    expect(bandWords(band).replace("1 kHz", "1.00 kHz")).toBe(words);
  });

  it("move in whole steps and within limits", () => {
    expect(moved(bell, 402.4, 3.3)).toMatchObject({ freq_hz: 402, gain_db: 3.5 });
    expect(moved(bell, 4027, 99)).toMatchObject({ freq_hz: 4030, gain_db: 24 });
    expect(moved(pass, 5, -9)).toMatchObject({ freq_hz: 20, gain_db: 0 });
  });

  it("get narrower but for those with a slope; hunting leaves a cut", () => {
    expect(narrower(bell, 2).q).toBe(2);
    expect(narrower({ ...bell, q: 29 }, 2).q).toBe(30);
    expect(narrower(pass, 2)).toBe(pass);
    expect(hunting(pass)).toMatchObject({ type: "bell", gain_db: 10, q: 8 });
    expect(afterHunt(hunting(bell))).toMatchObject({ gain_db: -4, q: 4, freq_hz: 1000 });
    expect(cutAt(183.4, 3.6)).toMatchObject({ type: "bell", freq_hz: 183, gain_db: -3.5 });
  });
});

describe("figures of levels", () => {
  it("are read off the histogram", () => {
    const shares = new Array<number>(90).fill(0);
    shares[25] = 0.5; // the room, −65
    shares[65] = 0.25; // words, −25
    shares[69] = 0.22;
    shares[80] = 0.03; // the loudest, −10
    expect(typical(shares, -90)).toBe(-24.5);
    expect(loudest(shares, -90)).toBe(-9.5);
    expect(loudest([], -90)).toBe(-90);
  });
});

describe("scales", () => {
  it("go there and back", () => {
    const hz = logarithmic([20, 20000], [0, 300]);
    expect(hz(200)).toBeCloseTo(100);
    expect(hz.invert(200)).toBeCloseTo(2000);
    const db = linear([-12, 12], [100, 0]);
    expect(db(0)).toBe(50);
    expect(db.invert(0)).toBe(12);
  });

  it("draw lines with gaps", () => {
    const same = linear([0, 1], [0, 1]);
    expect(linePath([0, 1, 2, 3], [1, null, 2, 3], same, same)).toBe("M0.0 1.0M2.0 2.0L3.0 3.0");
  });

  it("are added where a voice needs them and none is yet", () => {
    const plain = asBand({ type: "bell", freq_hz: 1000, gain_db: 0 });
    const made: Band[] = [];
    for (let i = 0; i < 11; i += 1) made.push(freshBand(plain, made));
    expect(made.slice(0, 4).map((b) => [b.type, b.freq_hz])).toEqual([["high_pass", 80], ["bell", 300], ["bell", 3000], ["high_shelf", 10_000]]);
    expect(new Set(made.slice(0, 10).map((b) => b.freq_hz)).size).toBe(10);
    expect(made[10]?.freq_hz).toBe(1000);
    expect(freshBand(plain, [{ ...plain, freq_hz: 90 }]).freq_hz).toBe(300);
  });
});
