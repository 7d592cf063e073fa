const bytes = (id) => Uint8Array.from(atob(document.getElementById(id).textContent.trim()), (c) => c.charCodeAt(0)).buffer;
const $ = (id) => document.getElementById(id);
let context, buffers, sources = [], gains = [], began = 0, at = 0, side = "after", playing = false;
const factor = (db) => 10 ** (db / 20);
const louder = Number(document.body.dataset.louder || 0);
function levels() {
  const match = $("match").checked ? louder : 0;
  const size = { before: match < 0 ? factor(match) : 1, after: match > 0 ? factor(-match) : 1 };
  ["before", "after"].forEach((name, i) => gains[i] && gains[i].gain.setTargetAtTime(name === side ? size[name] : 0, context.currentTime, 0.005));
}
async function ready() {
  if (buffers) return;
  context = new AudioContext();
  buffers = await Promise.all(["sound-before", "sound-after"].map((id) => context.decodeAudioData(bytes(id))));
}
async function start() {
  await ready();
  await context.resume();
  stop();
  const when = context.currentTime + 0.05;
  buffers.forEach((buffer, i) => {
    sources[i] = new AudioBufferSourceNode(context, { buffer });
    gains[i] = context.createGain();
    gains[i].gain.value = 0;
    sources[i].connect(gains[i]).connect(context.destination);
    sources[i].start(when, at);
  });
  began = when - at;
  playing = true;
  levels();
  show();
}
function stop() {
  sources.forEach((source) => source.stop());
  sources = [];
  playing = false;
}
const now = () => playing ? Math.max(0, context.currentTime - began) : at;
function show() {
  const length = buffers ? buffers[0].duration : 0;
  if (playing && now() >= length) { stop(); at = 0; }
  $("play").textContent = playing ? "Pause" : "Play";
  $("place").value = length ? now() / length : 0;
  $("time").textContent = Math.floor(now() / 60) + ":" + (now() % 60).toFixed(1).padStart(4, "0");
  if (playing) requestAnimationFrame(show);
}
$("play").onclick = () => { if (playing) { at = now(); stop(); show(); } else start(); };
$("place").oninput = async () => { await ready(); at = $("place").value * buffers[0].duration; if (playing) start(); else show(); };
document.querySelectorAll("[name=side]").forEach((one) => one.onchange = () => { side = one.value; levels(); });
$("match").onchange = levels;
