/**
 * Levels of the sound that plays now: RMS and loudness of the last 0.4 s, and true peak. K-weighting and momentary
 * loudness by ITU-R BS.1770-5 Annex 1 and EBU Tech 3341, true peak by four-fold oversampling as in its Annex 2; the
 * filter is derived for every rate as the server's is (`zesty_core/measure/loudness.py`).
 */

export interface NowLevels {
  rmsDbfs: number;
  lufs: number;
  truePeakDbtp: number;
}

/** What is measured together, and what comes before it so that the filter has settled. */
const WINDOW_S = 0.4;
const SETTLE_S = 0.1;
export const NEEDED_S = WINDOW_S + SETTLE_S;
/** Lower than this is silence. */
export const SILENCE_DB = -120;
const OFFSET_LU = -0.691;
const OVERSAMPLING = 4;
const TAPS = 12;

type Section = readonly [b0: number, b1: number, b2: number, a1: number, a2: number];

function kWeighting(rateHz: number): readonly [Section, Section] {
  let k = Math.tan((Math.PI * 1681.974450955533) / rateHz);
  const [q, high] = [0.7071752369554196, 10 ** (3.999843853973347 / 20)];
  const band = high ** 0.4996667741545416;
  let a0 = 1 + k / q + k * k;
  const shelf: Section = [(high + (band * k) / q + k * k) / a0, (2 * (k * k - high)) / a0, (high - (band * k) / q + k * k) / a0, (2 * (k * k - 1)) / a0, (1 - k / q + k * k) / a0];
  k = Math.tan((Math.PI * 38.13547087602444) / rateHz);
  const passQ = 0.5003270373238773;
  a0 = 1 + k / passQ + k * k;
  return [shelf, [1, -2, 1, (2 * (k * k - 1)) / a0, (1 - k / passQ + k * k) / a0]];
}

/** Mean square behind the K-weighting, of what lies behind `from`. */
function weightedPower(samples: Float32Array, from: number, rateHz: number): number {
  const [[p0, p1, p2, p3, p4], [q0, q1, q2, q3, q4]] = kWeighting(rateHz);
  let [a, b, c, d, sum] = [0, 0, 0, 0, 0];
  for (let i = 0; i < samples.length; i += 1) {
    const x = samples[i] ?? 0;
    // Transposed direct form II, both sections in a row.
    const y = p0 * x + a;
    a = p1 * x - p3 * y + b;
    b = p2 * x - p4 * y;
    const z = q0 * y + c;
    c = q1 * y - q3 * z + d;
    d = q2 * y - q4 * z;
    if (i >= from) sum += z * z;
  }
  return sum / Math.max(1, samples.length - from);
}

/** Windowed sinc of each place between two samples. */
const BETWEEN: readonly (readonly number[])[] = Array.from({ length: OVERSAMPLING }, (_, phase) =>
  Array.from({ length: TAPS }, (_tap, tap) => {
    const x = tap - TAPS / 2 + 1 - phase / OVERSAMPLING;
    const sinc = x === 0 ? 1 : Math.sin(Math.PI * x) / (Math.PI * x);
    return sinc * (0.5 + 0.5 * Math.cos((2 * Math.PI * x) / TAPS));
  }),
);

/** Highest magnitude at and between the samples. */
export function truePeak(samples: Float32Array): number {
  let most = 0;
  for (let i = TAPS / 2 - 1; i + TAPS / 2 < samples.length; i += 1) {
    // Between two samples a peak stands at most some dB over them; soft places need no closer look.
    if (2 * Math.max(Math.abs(samples[i] ?? 0), Math.abs(samples[i + 1] ?? 0)) < most) continue;
    for (const taps of BETWEEN) {
      let value = 0;
      for (let tap = 0; tap < TAPS; tap += 1) value += (taps[tap] ?? 0) * (samples[i + tap - TAPS / 2 + 1] ?? 0);
      most = Math.max(most, Math.abs(value));
    }
  }
  return most;
}

const powerDb = (power: number) => Math.max(SILENCE_DB, 10 * Math.log10(power + 1e-30));

/** Levels of the newest part of `channels`, which hold at least `NEEDED_S`. */
export function levelsOf(channels: readonly Float32Array[], rateHz: number): NowLevels {
  const length = Math.min(...channels.map((c) => c.length));
  const newest = channels.map((c) => c.subarray(Math.max(0, length - Math.round(NEEDED_S * rateHz)), length));
  const from = Math.max(0, (newest[0]?.length ?? 0) - Math.round(WINDOW_S * rateHz));
  const squares = newest.map((c) => c.subarray(from).reduce((sum, v) => sum + v * v, 0) / Math.max(1, c.length - from));
  const weighted = newest.reduce((sum, c) => sum + weightedPower(c, from, rateHz), 0);
  return {
    rmsDbfs: powerDb(squares.reduce((sum, v) => sum + v, 0) / Math.max(1, squares.length)),
    lufs: Math.max(SILENCE_DB, OFFSET_LU + powerDb(weighted)),
    truePeakDbtp: powerDb(Math.max(...newest.map(truePeak)) ** 2),
  };
}
