/**
 * A passage that loops while its chain is being set. New sound takes over at the same instant of the
 * loop with a short cross-fade, so that nothing clicks, stalls or jumps. Lives outside React.
 */

import { noEdits, toLeft, toOriginal, type Shifts } from "./cutTimes";
import { Tap, type Taps } from "./tap";
import { sideGains, Telling, type Difference, type Playback, type Side } from "./playback";

/** Channels of the same stretch before and after. */
export interface LoopSound extends Difference {
  sampleRateHz: number;
  startS: number;
  before: Float32Array<ArrayBuffer>[];
  after: Float32Array<ArrayBuffer>[];
}

const FADE_S = 0.015;
/** Time the browser needs to start sound exactly when it should; what is slow comes before. */
const LEAD_S = 0.015;

interface Voice {
  sources: AudioBufferSourceNode[];
  before: GainNode;
  after: GainNode;
  out: GainNode;
}

/** Seconds into a loop of `lengthS`, of an instant `sinceS` after its start. */
export const phaseOf = (sinceS: number, lengthS: number) =>
  lengthS > 0 ? ((sinceS % lengthS) + lengthS) % lengthS : 0;

function tapOn(context: AudioContext, source: AudioNode, channels: number): Tap {
  const tap = new Tap(context, channels);
  const splitter = context.createChannelSplitter(Math.max(1, channels));
  source.connect(splitter);
  for (let channel = 0; channel < channels; channel += 1) {
    const input = tap.input(channel);
    if (input) splitter.connect(input, channel);
  }
  return tap;
}

export class Loop extends Telling implements Playback {
  private context: AudioContext | null = null;
  private outlet: GainNode | null = null;
  private sound: LoopSound | null = null;
  private voice: Voice | null = null;
  private tapped: Taps | null = null;
  /** Instant of the context at which the loop would have begun. */
  private startedAt = 0;
  /** Where the loop stands still. */
  private phaseS = 0;
  private edits: Shifts = noEdits;
  /** Asked to play before there is anything to play. */
  private waiting = false;
  private ticking: ReturnType<typeof setInterval> | null = null;

  get lengthS(): number {
    const { sound } = this;
    return sound ? (sound.after[0]?.length ?? 0) / sound.sampleRateHz : 0;
  }

  get timeNowS(): number {
    return toOriginal((this.sound?.startS ?? 0) + this.phaseNowS(), this.edits);
  }

  /** Take other sound; when playing, it goes on from the same instant. */
  take(sound: LoopSound, edits: Shifts): void {
    const moved = this.sound !== null && this.sound.startS !== sound.startS;
    const timeS = this.timeNowS;
    this.sound = sound;
    this.edits = edits;
    if (moved) this.seekTo(toLeft(timeS, edits) - sound.startS);
    else this.phaseS = phaseOf(this.phaseS, this.lengthS);
    if (this.state.playing) this.start();
    this.tell();
    if (this.waiting) void this.play();
  }

  /** Play on; as soon as there is sound, where there is none yet. */
  async play(): Promise<void> {
    this.waiting = !this.sound;
    if (!this.sound || this.state.playing) return;
    if (!this.context) {
      this.context = new AudioContext({ latencyHint: "interactive", sampleRate: this.sound.sampleRateHz });
      this.outlet = this.context.createGain();
      this.outlet.connect(this.context.destination);
    }
    this.change({ playing: true });
    await this.context.resume();
    // Stopped again while the browser woke up.
    if (!this.snapshot().playing || this.ticking) return;
    this.startedAt = this.context.currentTime + LEAD_S - this.phaseS;
    this.start();
    this.ticking ??= setInterval(() => this.tell(), 100);
  }

  pause(): void {
    this.waiting = false;
    if (!this.state.playing) return;
    this.phaseS = this.phaseNowS();
    this.change({ playing: false });
    if (this.ticking) clearInterval(this.ticking);
    this.ticking = null;
    this.stop(this.voice);
    this.voice = null;
  }

  toggle(): void {
    if (this.state.playing || this.waiting) this.pause();
    else void this.play();
  }

  /** Go to a time of the recording; outside of the passage, to its nearer end. */
  seek(timeS: number): void {
    if (!this.sound) return;
    this.seekTo(toLeft(timeS, this.edits) - this.sound.startS);
    if (this.state.playing) this.start();
    this.tell();
  }

  choose(side: Side): void {
    this.change({ side });
    this.applyGains();
  }

  match(matched: boolean): void {
    this.change({ matched });
    this.applyGains();
  }

  taps(): Taps | null {
    return this.tapped;
  }

  /** Stop and let go of everything. */
  close(): void {
    this.pause();
    void this.context?.close();
    this.context = null;
    this.sound = null;
  }

  private phaseNowS(): number {
    if (!this.state.playing || !this.context) return this.phaseS;
    return phaseOf(this.context.currentTime - this.startedAt, this.lengthS);
  }

  private seekTo(phaseS: number): void {
    this.phaseS = Math.min(Math.max(0, phaseS), Math.max(0, this.lengthS - 0.001));
    if (this.context) this.startedAt = this.context.currentTime + LEAD_S - this.phaseS;
  }

  /** Start the sound at the instant the loop is at, fading over from what plays. */
  private start(): void {
    const { context, sound } = this;
    if (!context || !sound) return;
    const old = this.voice;
    const voice = this.makeVoice(context, sound);
    const at = context.currentTime + LEAD_S;
    const offset = phaseOf(at - this.startedAt, this.lengthS);
    for (const source of voice.sources) source.start(at, offset);
    voice.out.gain.setValueAtTime(0, at);
    voice.out.gain.linearRampToValueAtTime(1, at + FADE_S);
    this.voice = voice;
    const [before, after] = voice.sources;
    if (before && after) this.tapped = { before: tapOn(context, before, sound.before.length), after: tapOn(context, after, sound.after.length) };
    this.applyGains(true);
    this.stop(old, at);
  }

  private makeVoice(context: AudioContext, sound: LoopSound): Voice {
    const [before, after, out] = [context.createGain(), context.createGain(), context.createGain()];
    const sources = [
      { channels: sound.before, gain: before },
      { channels: sound.after, gain: after },
    ].map(({ channels, gain }) => {
      const source = context.createBufferSource();
      const buffer = context.createBuffer(Math.max(1, channels.length), Math.max(1, channels[0]?.length ?? 1), sound.sampleRateHz);
      channels.forEach((samples, i) => buffer.copyToChannel(samples, i));
      source.buffer = buffer;
      source.loop = true;
      source.connect(gain);
      gain.connect(out);
      return source;
    });
    if (this.outlet) out.connect(this.outlet);
    return { sources, before, after, out };
  }

  private stop(voice: Voice | null, at = this.context?.currentTime ?? 0): void {
    if (!voice) return;
    voice.out.gain.cancelScheduledValues(at);
    voice.out.gain.setValueAtTime(1, at);
    voice.out.gain.linearRampToValueAtTime(0, at + FADE_S);
    for (const source of voice.sources) {
      source.stop(at + 2 * FADE_S);
      source.onended = () => voice.out.disconnect();
    }
  }

  private applyGains(atOnce = false): void {
    if (!this.context || !this.voice || !this.sound) return;
    const wanted = sideGains(this.state.side, this.state.matched, this.sound);
    const now = this.context.currentTime;
    for (const key of ["before", "after"] as const) {
      const { gain } = this.voice[key];
      gain.cancelScheduledValues(now);
      gain.setValueAtTime(atOnce ? wanted[key] : gain.value, now);
      gain.linearRampToValueAtTime(wanted[key], now + FADE_S);
    }
  }

  private tell(): void {
    this.change({ timeS: this.timeNowS });
  }
}
