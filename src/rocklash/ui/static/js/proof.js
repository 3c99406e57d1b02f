/* A pull recorded in the browser as WAV: gain control, noise and echo filters off, for they bend what is heard. */
(() => {
  const part = document.currentScript.dataset.recorderPart;
  const LONGEST = 180;
  let running = null;
  // a bench that is swapped in meanwhile may have replaced the form: it is looked for each time
  const part_of = (name) => document.querySelector(`[data-recording] ${name}`);

  const wav = (pieces, rate) => {
    const count = pieces.reduce((sum, each) => sum + each.length, 0);
    const view = new DataView(new ArrayBuffer(44 + 2 * count));
    const text = (at, words) => [...words].forEach((sign, n) => view.setUint8(at + n, sign.charCodeAt(0)));
    text(0, "RIFF"); view.setUint32(4, 36 + 2 * count, true); text(8, "WAVEfmt "); view.setUint32(16, 16, true);
    view.setUint16(20, 1, true); view.setUint16(22, 1, true); view.setUint32(24, rate, true); view.setUint32(28, 2 * rate, true);
    view.setUint16(32, 2, true); view.setUint16(34, 16, true); text(36, "data"); view.setUint32(40, 2 * count, true);
    let at = 44;
    for (const piece of pieces) for (const value of piece) {
      view.setInt16(at, Math.max(-1, Math.min(1, value)) * 32767, true);
      at += 2;
    }
    return new Blob([view], { type: "audio/wav" });
  };

  const stop = () => {
    const { stream, context, pieces, clock } = running;
    clearInterval(clock);
    stream.getTracks().forEach((track) => track.stop());
    const file = new File([wav(pieces, context.sampleRate)], "pull.wav", { type: "audio/wav" });
    context.close();
    running = null;
    const held = new DataTransfer();
    held.items.add(file);
    part_of("input[type=file]").files = held.files;
    part_of("[data-recorded]").textContent = `${(file.size / 1e6).toFixed(1)} MB recorded. Hear it below.`;
    part_of("[data-record]").textContent = "Record again";
  };

  const start = async () => {
    try {
      const stream = await navigator.mediaDevices.getUserMedia({ audio: { echoCancellation: false, noiseSuppression: false, autoGainControl: false } });
      const context = new AudioContext();
      await context.audioWorklet.addModule(part);
      const node = new AudioWorkletNode(context, "recorder-part");
      const pieces = [];
      node.port.onmessage = (event) => pieces.push(event.data);
      context.createMediaStreamSource(stream).connect(node);
      const begun = Date.now();
      const clock = setInterval(() => {
        const seconds = Math.round((Date.now() - begun) / 1000);
        part_of("[data-recorded]").textContent = `${seconds} s`;
        if (seconds >= LONGEST) stop();
      }, 500);
      running = { stream, context, pieces, clock };
      part_of("[data-record]").textContent = "Stop";
    } catch (error) {
      part_of("[data-recorded]").textContent = "No microphone is to be had here: allow it in the browser, or record elsewhere and choose the file.";
    }
  };

  document.addEventListener("click", (event) => {
    if (!event.target.closest("[data-record]")) return;
    if (running) stop(); else start();
  });
  const offer = () => {
    document.querySelectorAll("[data-recorder]").forEach((each) => { each.hidden = !(navigator.mediaDevices && window.AudioWorkletNode); });
    if (running && part_of("[data-record]")) part_of("[data-record]").textContent = "Stop";
  };
  document.addEventListener("DOMContentLoaded", offer);
  document.addEventListener("htmx:after:swap", offer);
})();
