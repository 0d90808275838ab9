// Runs beside the sound, hands over blocks of it as they are recorded, channels averaged.
const BLOCK = 1024;

class SoundTap extends AudioWorkletProcessor {
  constructor() {
    super();
    this.block = new Float32Array(BLOCK);
    this.filled = 0;
  }

  process(inputs) {
    const channels = inputs[0];
    const first = channels[0];
    if (!first) return true;
    for (let i = 0; i < first.length; i += 1) {
      let sum = 0;
      for (const channel of channels) sum += channel[i];
      this.block[this.filled] = sum / channels.length;
      this.filled += 1;
      if (this.filled === BLOCK) {
        const done = this.block;
        // currentTime counts to the beginning of this quantum.
        this.port.postMessage({ samples: done, end_s: currentTime + (i + 1) / sampleRate }, [done.buffer]);
        this.block = new Float32Array(BLOCK);
        this.filled = 0;
      }
    }
    return true;
  }
}

registerProcessor("sound-tap", SoundTap);
