/** Figures read off a histogram of levels, whose steps are a decibel. */

const VOICE_BELOW_LOUDEST_DB = 30;

/** Level that one hundredth of the time lies above. */
export function loudest(shares: readonly number[], lowestDbfs: number): number {
  let above = 0;
  for (let i = shares.length - 1; i >= 0; i -= 1) {
    above += shares[i] ?? 0;
    if (above >= 0.01) return lowestDbfs + i + 0.5;
  }
  return lowestDbfs;
}

/** Middle level of what is spoken: of all within 30 dB of the loudest. */
export function typical(shares: readonly number[], lowestDbfs: number): number {
  const from = Math.max(0, Math.round(loudest(shares, lowestDbfs) - VOICE_BELOW_LOUDEST_DB - lowestDbfs));
  const total = shares.slice(from).reduce((sum, s) => sum + s, 0);
  let below = 0;
  for (let i = from; i < shares.length; i += 1) {
    below += shares[i] ?? 0;
    if (below >= total / 2) return lowestDbfs + i + 0.5;
  }
  return lowestDbfs;
}
