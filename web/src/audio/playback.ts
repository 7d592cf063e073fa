/** What plays before and after: a file, or a looping passage. */

import type { Taps } from "./tap";

export type Side = "before" | "after" | "removed";

/** What changes when someone acts. */
export interface Controls {
  playing: boolean;
  side: Side;
  matched: boolean;
  fault: string | null;
}

/** The same with what changes all the time while it plays. */
export interface PlayerState extends Controls {
  timeS: number;
}

export interface Playback {
  readonly subscribe: (listener: () => void) => () => void;
  readonly snapshot: () => PlayerState;
  /** The same object until someone acts, so that a page need not be drawn anew for the time. */
  readonly controls: () => Controls;
  /** Position in the recording now. */
  readonly timeNowS: number;
  toggle(): void;
  pause(): void;
  seek(timeS: number): void;
  choose(side: Side): void;
  match(matched: boolean): void;
  /** To read levels of both sides while it plays; null before anything was heard. */
  taps(): Taps | null;
}

/** State that tells whoever listens when it changes. */
export class Telling {
  protected state: PlayerState = { playing: false, timeS: 0, side: "after", matched: false, fault: null };
  private acted: Controls = this.state;
  private readonly listeners = new Set<() => void>();

  readonly subscribe = (listener: () => void): (() => void) => {
    this.listeners.add(listener);
    return () => this.listeners.delete(listener);
  };

  readonly snapshot = (): PlayerState => this.state;

  readonly controls = (): Controls => this.acted;

  protected change(part: Partial<PlayerState>): void {
    this.state = { ...this.state, ...part };
    const { acted, state } = this;
    const keys = ["playing", "side", "matched", "fault"] as const;
    if (keys.some((key) => acted[key] !== state[key])) this.acted = state;
    for (const listener of this.listeners) listener();
  }
}

const factor = (db: number) => 10 ** (db / 20);

/** Level difference of two sides; null where it cannot be measured. */
export interface Difference {
  /** How much louder after is than before, in dB. */
  louderDb: number | null;
  /** Gain of the voice from before to after, in dB. */
  voiceGainDb: number | null;
}

/** Gain difference taken out before one side is subtracted from the other, in dB. */
export const removedByDb = ({ voiceGainDb, louderDb }: Difference) => voiceGainDb ?? louderDb ?? 0;

/** Gains of the two sides: what is heard is `before * b + after * a`. */
export function sideGains(side: Side, matched: boolean, sound: Difference): { before: number; after: number } {
  // The louder side comes down to the softer one; turning up could clip.
  const difference = side === "removed" ? removedByDb(sound) : matched ? (sound.louderDb ?? 0) : 0;
  const before = difference < 0 ? factor(difference) : 1;
  const after = difference > 0 ? factor(-difference) : 1;
  if (side === "before") return { before, after: 0 };
  if (side === "after") return { before: 0, after };
  return { before: -before, after };
}
