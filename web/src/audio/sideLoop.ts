/**
 * Up to eight sounds of one passage that loop in step, one of them heard. Switching fades over at the
 * same instant. Lives outside React.
 */

import { phaseOf } from "./loop";

export interface SideSound {
  /** One or two channels. */
  channels: Float32Array<ArrayBuffer>[];
  lufs: number | null;
}

export interface SideLoopState {
  playing: boolean;
  heard: number;
  matched: boolean;
}

const FADE_S = 0.01;
const LEAD_S = 0.03;

/** Gains that make all as loud as the softest; turning up could clip. */
export function matchGains(sounds: readonly SideSound[], matched: boolean): number[] {
  const known = sounds.flatMap((s) => (s.lufs === null ? [] : [s.lufs]));
  const softest = Math.min(...known);
  return sounds.map((s) => (matched && s.lufs !== null ? 10 ** ((softest - s.lufs) / 20) : 1));
}

export class SideLoop {
  private state: SideLoopState = { playing: false, heard: 0, matched: true };
  private readonly listeners = new Set<() => void>();
  private context: AudioContext | null = null;
  private sounds: readonly SideSound[] = [];
  private sampleRateHz = 48000;
  private sources: AudioBufferSourceNode[] = [];
  private gains: GainNode[] = [];
  private startedAt = 0;
  private phaseS = 0;

  readonly subscribe = (listener: () => void): (() => void) => {
    this.listeners.add(listener);
    return () => this.listeners.delete(listener);
  };

  readonly snapshot = (): SideLoopState => this.state;

  get lengthS(): number {
    return Math.max(0, ...this.sounds.map((s) => s.channels[0]?.length ?? 0)) / this.sampleRateHz;
  }

  get phaseNowS(): number {
    return this.state.playing && this.context ? phaseOf(this.context.currentTime - this.startedAt, this.lengthS) : this.phaseS;
  }

  /** Take other sounds; what plays stops. */
  take(sounds: readonly SideSound[], sampleRateHz: number): void {
    this.pause();
    this.sounds = sounds;
    this.phaseS = 0;
    if (sampleRateHz !== this.sampleRateHz) this.close();
    this.sampleRateHz = sampleRateHz;
  }

  async play(): Promise<void> {
    if (this.state.playing || this.sounds.length === 0) return;
    this.context ??= new AudioContext({ latencyHint: "interactive", sampleRate: this.sampleRateHz });
    this.change({ playing: true });
    await this.context.resume();
    if (!this.snapshot().playing || this.sources.length > 0) return;
    this.start(this.context);
  }

  pause(): void {
    if (!this.state.playing) return;
    this.phaseS = this.phaseNowS;
    this.sources.forEach((source) => source.stop());
    this.sources = [];
    this.gains.forEach((gain) => gain.disconnect());
    this.gains = [];
    this.change({ playing: false });
  }

  toggle(): void {
    if (this.state.playing) this.pause();
    else void this.play();
  }

  choose(heard: number): void {
    this.change({ heard });
    this.applyGains();
  }

  match(matched: boolean): void {
    this.change({ matched });
    this.applyGains();
  }

  /** Stop and let go of the audio device. */
  close(): void {
    this.pause();
    void this.context?.close();
    this.context = null;
  }

  private start(context: AudioContext): void {
    const at = context.currentTime + LEAD_S;
    const longest = Math.round(this.lengthS * this.sampleRateHz);
    this.startedAt = at - this.phaseS;
    this.sources = this.sounds.map(({ channels }) => {
      // All are as long as the longest, so that they stay in step.
      const buffer = context.createBuffer(Math.max(1, channels.length), Math.max(1, longest), this.sampleRateHz);
      channels.forEach((samples, i) => buffer.copyToChannel(samples, i));
      const source = context.createBufferSource();
      source.buffer = buffer;
      source.loop = true;
      const gain = context.createGain();
      gain.gain.value = 0;
      source.connect(gain);
      gain.connect(context.destination);
      this.gains.push(gain);
      source.start(at, this.phaseS);
      return source;
    });
    this.applyGains();
  }

  private applyGains(): void {
    if (!this.context) return;
    const now = this.context.currentTime;
    const sizes = matchGains(this.sounds, this.state.matched);
    this.gains.forEach(({ gain }, i) => {
      gain.cancelScheduledValues(now);
      gain.setValueAtTime(gain.value, now);
      gain.linearRampToValueAtTime(i === this.state.heard ? (sizes[i] ?? 1) : 0, now + FADE_S);
    });
  }

  private change(part: Partial<SideLoopState>): void {
    this.state = { ...this.state, ...part };
    for (const listener of this.listeners) listener();
  }
}
