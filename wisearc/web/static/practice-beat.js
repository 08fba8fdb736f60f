/* A beat to work to, heard and seen, and taps that are judged afterwards. Nothing flashes: a ring moves softly. */
(() => {
  const root = document.querySelector("[data-beat]");
  if (!root) { return; }
  const part = (name) => root.querySelector("[data-" + name + "]");
  const form = document.querySelector("[data-token]");
  const reduced = window.matchMedia("(prefers-reduced-motion: reduce)");
  const MAX_S = 120;
  let audio = null;
  let since = null;
  let aloud = true;
  let taps = [];
  let planned = 0;
  let pps = Number(part("rate").value) / 60;

  function now() { return since === null ? 0 : (window.performance.now() - since) / 1000; }

  function schedule() {
    if (since === null) { return; }
    const t = now();
    if (aloud && audio) {
      while (planned / pps < t + 0.25) {
        const at = audio.currentTime + planned / pps - t;
        if (at >= audio.currentTime) { tick(at); }
        planned += 1;
      }
    }
    const share = (t * pps) % 1;
    part("pulse").style.setProperty("--beat", reduced.matches ? "0.5" : (0.5 + 0.5 * Math.cos(2 * Math.PI * share)).toFixed(3));
    if (t > MAX_S) { stop(); return; }
    window.requestAnimationFrame(schedule);
  }

  function tick(at) {
    const tone = audio.createOscillator();
    const volume = audio.createGain();
    tone.frequency.value = 880;
    volume.gain.setValueAtTime(0.3, at);
    volume.gain.exponentialRampToValueAtTime(0.001, at + 0.06);
    tone.connect(volume).connect(audio.destination);
    tone.start(at);
    tone.stop(at + 0.08);
  }

  function start() {
    audio = audio || new window.AudioContext();
    audio.resume();
    pps = Number(part("rate").value) / 60;
    since = window.performance.now() + 600;
    taps = [];
    planned = 0;
    part("start").textContent = "Stop and judge";
    part("count").textContent = "Tap here for each dab";
    part("result").hidden = true;
    part("rate").disabled = true;
    schedule();
  }

  async function stop() {
    since = null;
    part("start").textContent = "Start the beat";
    part("rate").disabled = false;
    part("result").hidden = false;
    part("score").textContent = "";
    part("words").textContent = "Judging.";
    const once = Array.from(window.crypto.getRandomValues(new Uint8Array(12)), (b) => b.toString(16).padStart(2, "0")).join("");
    try {
      const response = await window.fetch(form.dataset.action, {
        method: "POST", body: JSON.stringify({ pps, taps, once }),
        headers: { "Content-Type": "application/json", Accept: "application/json", "X-CSRFToken": form.querySelector("input").value },
      });
      const answer = await response.json();
      part("score").textContent = response.ok ? answer.score : "";
      part("words").textContent = response.ok ? answer.words : answer.error;
    } catch (error) {
      part("words").textContent = "No connection: this rhythm was not judged. Try again when the server answers.";
    }
    draw();
  }

  /* Each tap as a point: above the line early, below it late, by half a beat at most. */
  function draw() {
    const canvas = part("strip");
    const wide = canvas.clientWidth;
    const high = canvas.clientHeight;
    if (!wide || !taps.length) { return; }
    canvas.width = wide;
    canvas.height = high;
    const pen = canvas.getContext("2d");
    const colour = (name) => window.getComputedStyle(canvas).getPropertyValue(name).trim();
    pen.strokeStyle = colour("--line");
    pen.beginPath();
    pen.moveTo(0, high / 2);
    pen.lineTo(wide, high / 2);
    pen.stroke();
    pen.fillStyle = colour("--violet");
    const end = taps[taps.length - 1] || 1;
    for (const t of taps) {
      const off = t * pps - Math.round(t * pps);
      pen.beginPath();
      pen.arc(6 + (wide - 12) * t / end, high / 2 + off * high * 0.9, 4, 0, 2 * Math.PI);
      pen.fill();
    }
    pen.font = "15px " + colour("--face");
    pen.fillStyle = colour("--ink-2");
    pen.fillText("early", 2, 14);
    pen.fillText("late", 2, high - 4);
  }

  function tap(event) {
    event.preventDefault();
    if (since === null) { return; }
    const t = now();
    if (t < 0 || (taps.length && t - taps[taps.length - 1] < 0.08)) { return; }
    taps.push(Math.round(t * 10000) / 10000);
    part("count").textContent = String(taps.length);
  }

  part("start").addEventListener("click", () => { if (since === null) { start(); } else { stop(); } });
  part("pad").addEventListener("pointerdown", tap);
  part("pad").addEventListener("keydown", (event) => { if (!event.repeat && (event.key === " " || event.key === "Enter")) { tap(event); } });
  part("rate").addEventListener("input", () => { part("rate-value").textContent = part("rate").value; });
  part("sound").addEventListener("click", (event) => {
    aloud = !aloud;
    event.currentTarget.setAttribute("aria-pressed", String(aloud));
    event.currentTarget.textContent = "Sound: " + (aloud ? "on" : "off");
  });
})();
