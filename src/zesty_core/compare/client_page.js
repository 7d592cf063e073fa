const $ = (id) => document.getElementById(id);
const loudness = JSON.parse(document.body.dataset.lufs);
const names = Object.keys(loudness);
const bytes = (name) => Uint8Array.from(atob($("sound-" + name).textContent.trim()), (c) => c.charCodeAt(0)).buffer;
const factor = (db) => 10 ** (db / 20);
const measured = names.map((name) => loudness[name]).filter((lufs) => lufs !== null);
const softest = Math.min(...measured);
let context, buffers, sources = [], gains = [], began = 0, at = 0, playing = false;
let heard = document.querySelector("[name=side]:checked").value;
function levels() {
  // The louder ones come down to the softest; turning up could clip.
  const match = (name) => $("match").checked && loudness[name] !== null ? factor(softest - loudness[name]) : 1;
  names.forEach((name, i) => gains[i] && gains[i].gain.setTargetAtTime(name === heard ? match(name) : 0, context.currentTime, 0.005));
}
async function ready() {
  if (buffers) return;
  context = new AudioContext();
  buffers = await Promise.all(names.map((name) => context.decodeAudioData(bytes(name))));
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
const clock = (s) => Math.floor(s / 60) + ":" + (s % 60).toFixed(1).padStart(4, "0");
function show() {
  const length = buffers ? Math.max(...buffers.map((buffer) => buffer.duration)) : 0;
  if (playing && now() >= length) { stop(); at = 0; }
  $("play").textContent = playing ? "Pause" : "Play";
  $("place").value = length ? now() / length : 0;
  $("time").textContent = clock(now());
  if (playing) requestAnimationFrame(show);
}
$("play").onclick = () => { if (playing) { at = now(); stop(); show(); } else start(); };
$("place").oninput = async () => {
  await ready();
  at = $("place").value * Math.max(...buffers.map((buffer) => buffer.duration));
  if (playing) start(); else show();
};
document.querySelectorAll("[name=side]").forEach((one) => one.onchange = () => { heard = one.value; levels(); });
$("match").onchange = levels;
const notes = document.querySelectorAll("textarea[data-version]");
document.querySelectorAll("[data-now]").forEach((button) => button.onclick = () => {
  const note = $(button.dataset.now);
  note.value += (note.value && !note.value.endsWith("\n") ? "\n" : "") + clock(now()) + " ";
  note.focus();
});
$("keep-notes").onclick = () => {
  const who = $("who").value.trim();
  const text = [document.title, who && "From " + who, ...[...notes].map((note) => "\n" + note.dataset.version + "\n" + (note.value.trim() || "(no note)"))];
  const link = document.createElement("a");
  link.href = URL.createObjectURL(new Blob([text.filter(Boolean).join("\n") + "\n"], { type: "text/plain" }));
  link.download = document.title.replace(/[\\/:*?"<>|]/g, " ") + ", notes.txt";
  link.click();
};
