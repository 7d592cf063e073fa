/**
 * Before and after from one file: its channels are before and after of the same samples, so that
 * switching is a short cross-fade of two gains and cannot move in time. Lives outside React.
 */

import { noEdits, pastCuts, toLeft, toOriginal, type Shifts } from "./cutTimes";
import { Tap, type Taps } from "./tap";
import { sideGains, Telling, type Difference, type Playback, type Side } from "./playback";

export interface Sound extends Difference {
  url: string;
  /** Channels of the recording; the file has twice as many when it holds both sides. */
  channels: number;
  hasAfter: boolean;
  /** Spans of the recording that are left out, and what is added before it. */
  edits?: Shifts;
  /** The file holds what the edits make; otherwise cuts are jumped over. */
  isEdited?: boolean;
}

const FADE_S = 0.01;

/** A tap on so many channels of the file, from `first` on. */
function tapOn(context: AudioContext, splitter: ChannelSplitterNode, first: number, channels: number): Tap {
  const tap = new Tap(context, channels);
  for (let channel = 0; channel < channels; channel += 1) {
    const input = tap.input(channel);
    if (input) splitter.connect(input, first + channel);
  }
  return tap;
}

export class Player extends Telling implements Playback {
  private readonly element = new Audio();
  private context: AudioContext | null = null;
  private splitter: ChannelSplitterNode | null = null;
  private merger: ChannelMergerNode | null = null;
  private tapped: Taps | null = null;
  private gains: { before: GainNode; after: GainNode }[] = [];
  private sound: Sound | null = null;
  /** Whether a fault has been tried to mend since anything was heard. */
  private tried = false;
  private untilS: number | null = null;

  constructor() {
    super();
    this.element.preload = "auto";
    const tell = () => {
      this.tried = false;
      this.jumpOverCuts();
      this.change({ timeS: this.timeNowS });
      if (this.untilS !== null && this.timeNowS >= this.untilS) this.pause();
    };
    this.element.addEventListener("timeupdate", tell);
    this.element.addEventListener("seeked", tell);
    this.element.addEventListener("play", () => this.change({ playing: true }));
    this.element.addEventListener("pause", () => this.change({ playing: false }));
    this.element.addEventListener("ended", () => this.change({ playing: false }));
    this.element.addEventListener("error", () => this.recover());
  }

  /** Exact position in the recording now, for drawing between the browser's own time events. */
  get timeNowS(): number {
    const { currentTime } = this.element;
    return this.sound?.isEdited ? toOriginal(currentTime, this.sound.edits ?? noEdits) : currentTime;
  }

  /** Take another file; position and playing go on where they were. */
  load(sound: Sound): void {
    if (this.sound?.url === sound.url) {
      this.sound = sound;
      this.applyGains();
      return;
    }
    const { paused } = this.element;
    const timeS = this.timeNowS;
    const first = this.sound === null;
    this.sound = sound;
    this.element.src = sound.url;
    this.element.currentTime = this.inFile(timeS);
    if (this.context) this.connect();
    this.change({ fault: null });
    if (!paused && !first) void this.element.play();
  }

  /** Play on, or only to `untilS`. */
  async play(untilS: number | null = null): Promise<void> {
    if (!this.sound) return;
    this.untilS = untilS;
    this.start();
    await this.context?.resume();
    await this.element.play().catch(() => undefined);
  }

  pause(): void {
    this.untilS = null;
    this.element.pause();
  }

  toggle(): void {
    if (this.element.paused) void this.play();
    else this.pause();
  }

  seek(timeS: number): void {
    this.element.currentTime = this.inFile(Math.max(0, timeS));
    this.change({ timeS: this.timeNowS });
  }

  choose(side: Side): void {
    if (side !== "before" && !this.sound?.hasAfter) return;
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
    this.element.pause();
    this.element.removeAttribute("src");
    this.element.load();
    void this.context?.close();
    this.context = null;
    this.sound = null;
  }

  /** Position in the file of a time in the recording. */
  private inFile(timeS: number): number {
    const edits = this.sound?.edits ?? noEdits;
    // From the very start, what was added before it is heard too.
    if (this.sound?.isEdited) return timeS > 0 ? toLeft(timeS, edits) : 0;
    return pastCuts(timeS, edits.cuts);
  }

  /** After a fault (a lost connection, say) try once from the same place; then say so. */
  private recover(): void {
    if (!this.element.getAttribute("src")) return;
    const { playing } = this.state;
    if (this.tried) {
      this.change({ playing: false, fault: "This file cannot be played here. Run the chain first." });
      return;
    }
    this.tried = true;
    const { currentTime } = this.element;
    this.element.load();
    this.element.currentTime = currentTime;
    if (playing) void this.element.play().catch(() => undefined);
  }

  private jumpOverCuts(): void {
    if (!this.sound || this.sound.isEdited || this.element.paused) return;
    const { currentTime } = this.element;
    const on = pastCuts(currentTime, this.sound.edits?.cuts ?? []);
    if (on !== currentTime) this.element.currentTime = on;
  }

  private start(): void {
    if (this.context) return;
    this.context = new AudioContext({ latencyHint: "interactive" });
    const source = this.context.createMediaElementSource(this.element);
    this.splitter = this.context.createChannelSplitter(4);
    this.splitter.channelInterpretation = "discrete";
    this.merger = this.context.createChannelMerger(2);
    source.connect(this.splitter);
    this.merger.connect(this.context.destination);
    this.connect();
  }

  /** Wire the file's channels: before and after of each side of the head. */
  private connect(): void {
    const { context, splitter, merger, sound } = this;
    if (!context || !splitter || !merger || !sound) return;
    splitter.disconnect();
    for (const pair of this.gains) {
      pair.before.disconnect();
      pair.after.disconnect();
    }
    this.gains = [0, 1].map((ear) => {
      const channel = Math.min(ear, sound.channels - 1);
      const before = context.createGain();
      const after = context.createGain();
      splitter.connect(before, channel);
      if (sound.hasAfter) splitter.connect(after, sound.channels + channel);
      before.connect(merger, 0, ear);
      after.connect(merger, 0, ear);
      return { before, after };
    });
    const tap = (first: number) => tapOn(context, splitter, first, sound.channels);
    this.tapped = { before: tap(0), after: sound.hasAfter ? tap(sound.channels) : null };
    this.applyGains(true);
  }

  private applyGains(atOnce = false): void {
    if (!this.context || !this.sound) return;
    const side = this.sound.hasAfter ? this.state.side : "before";
    const wanted = sideGains(side, this.state.matched, this.sound);
    const now = this.context.currentTime;
    for (const pair of this.gains) {
      for (const key of ["before", "after"] as const) {
        const gain = pair[key].gain;
        gain.cancelScheduledValues(now);
        gain.setValueAtTime(atOnce ? wanted[key] : gain.value, now);
        gain.linearRampToValueAtTime(wanted[key], now + FADE_S);
      }
    }
  }
}
