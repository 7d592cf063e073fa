import { levelsOf, type NowLevels } from "./levels";

/** The most an analyser holds; more than half a second at every rate a browser plays at. */
const HELD = 32_768;

/** Listens to one side while it plays, whichever is heard; connect each channel to its input. */
export class Tap {
  private readonly analysers: readonly AnalyserNode[];
  private readonly samples: readonly Float32Array<ArrayBuffer>[];

  constructor(private readonly context: BaseAudioContext, channels: number) {
    this.analysers = Array.from({ length: Math.max(1, channels) }, () => {
      const analyser = context.createAnalyser();
      analyser.fftSize = HELD;
      return analyser;
    });
    this.samples = this.analysers.map(() => new Float32Array(HELD));
  }

  /** Where channel `channel` of the side goes in. */
  input(channel: number): AudioNode | undefined {
    return this.analysers[channel];
  }

  levels(): NowLevels {
    this.analysers.forEach((analyser, i) => {
      const into = this.samples[i];
      if (into) analyser.getFloatTimeDomainData(into);
    });
    return levelsOf(this.samples, this.context.sampleRate);
  }
}

/** Both sides of what plays; null where there is none. */
export interface Taps {
  before: Tap;
  after: Tap | null;
}
