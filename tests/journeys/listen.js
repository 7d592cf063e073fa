// Keeps what reaches the audio output, piece after piece, for tests to measure.
(() => {
  // The longest there is: a page that draws for a third of a second still loses nothing.
  const SIZE = 16384;
  const PIECE = 4096;
  const Real = window.AudioContext;
  window.heard = [];
  window.AudioContext = class extends Real {
    constructor(options) {
      super({ ...options, sampleRate: 48000 });
    }
  };
  const connect = AudioNode.prototype.connect;
  AudioNode.prototype.connect = function (target, ...rest) {
    if (target instanceof AudioDestinationNode && !this.isRecorder) {
      const recorder = this.context.createScriptProcessor(SIZE, 2, 2);
      recorder.isRecorder = true;
      recorder.onaudioprocess = (event) => {
        const sound = event.inputBuffer.getChannelData(0);
        for (let at = 0; at < SIZE; at += PIECE) {
          window.heard.push(Array.from(sound.subarray(at, at + PIECE)));
        }
      };
      connect.call(this, recorder);
      connect.call(recorder, target);
    }
    return connect.call(this, target, ...rest);
  };
})();
