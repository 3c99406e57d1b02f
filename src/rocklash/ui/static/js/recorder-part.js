/* Runs in the audio thread: hands on what the microphone hears, one channel. */
class RecorderPart extends AudioWorkletProcessor {
  process(inputs) {
    if (inputs[0] && inputs[0][0]) this.port.postMessage(inputs[0][0].slice());
    return true;
  }
}
registerProcessor("recorder-part", RecorderPart);
