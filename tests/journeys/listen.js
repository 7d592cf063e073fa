// Keeps what reaches the audio output, piece after piece, for tests to measure.
(() => {
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
      const recorder = this.context.createScriptProcessor(4096, 2, 2);
      recorder.isRecorder = true;
      recorder.onaudioprocess = (event) => {
        window.heard.push(Array.from(event.inputBuffer.getChannelData(0)));
      };
      connect.call(this, recorder);
      connect.call(recorder, target);
    }
    return connect.call(this, target, ...rest);
  };
})();
