/* The guide: a mark that moves along the seam at true scale, with its beat, audible on request.
   Each beat is calculated from the start of the seam, so that delays do not add up. */
window.arcPacer = (root, pace) => {
  const CARD_MM = 85.6;
  const KEPT = "px-per-mm";
  const AHEAD_S = 0.25;
  const canvas = root.querySelector("[data-bar]");
  const words = root.querySelector("[data-pace-words]");
  const beats = root.querySelector("[data-beats]");
  const sound = root.querySelector("[data-sound]");
  const reduced = window.matchMedia("(prefers-reduced-motion: reduce)");
  let scale = Number(window.localStorage.getItem(KEPT)) || 96 / 25.4;
  let run = null;
  let audio = null;
  let aloud = false;
  let planned = 0;
  let told = 0;

  function colour(name) { return window.getComputedStyle(root).getPropertyValue(name).trim(); }

  function fit(target) {
    const ratio = window.devicePixelRatio || 1;
    const wide = target.clientWidth;
    const high = Number(target.getAttribute("height")) || target.clientHeight;
    if (target.dataset.wide !== wide + "x" + ratio) {
      target.dataset.wide = wide + "x" + ratio;
      target.dataset.high = target.dataset.high || high;
      target.width = Math.round(wide * ratio);
      target.height = Math.round(Number(target.dataset.high) * ratio);
      target.style.height = target.dataset.high + "px";
    }
    const pen = target.getContext("2d");
    pen.setTransform(ratio, 0, 0, ratio, 0, 0);
    return { pen, wide, high: Number(target.dataset.high) };
  }

  function draw() {
    if (!canvas || !canvas.clientWidth) { return; }
    const { pen, wide, high } = fit(canvas);
    pen.clearRect(0, 0, wide, high);
    const from = run ? run.from : 0;
    const to = run ? run.to : Math.min(wide / scale, 300);
    const at = run ? Math.min(to, from + pace.speed_mm_s * seconds()) : from;
    // At the end of the view, the mark stays and the seam moves below it.
    const shift = Math.max(0, Math.min((at - from) * scale - wide * 0.6, (to - from) * scale - wide + 20));
    const x = (mm) => 10 + (mm - from) * scale - shift;
    pen.fillStyle = colour("--steel-2");
    pen.fillRect(x(from), 18, (to - from) * scale, 30);
    const size = pace.pool_mm * scale / 2;
    const step = pace.step_mm;
    if (step) {
      pen.strokeStyle = colour("--ink-2");
      pen.lineWidth = 1.5;
      const last = Math.floor((at - from) / step);
      for (let n = Math.max(0, last - 8); n <= last; n += 1) {
        pen.beginPath();
        pen.arc(x(from + n * step), 33, size, 0, 2 * Math.PI);
        pen.stroke();
      }
      const next = from + (last + 1) * step;
      if (next <= to) {
        pen.strokeStyle = colour("--plum");
        pen.lineWidth = 3;
        pen.beginPath();
        pen.moveTo(x(next), 8);
        pen.lineTo(x(next), 58);
        pen.stroke();
      }
    }
    pen.fillStyle = colour("--pool");
    pen.beginPath();
    pen.arc(x(step && run ? from + Math.floor((at - from) / step) * step : at), 33, size, 0, 2 * Math.PI);
    pen.fill();
    pen.fillStyle = colour("--ink-2");
    pen.font = "16px " + colour("--face");
    pen.textAlign = "left";
    pen.fillText(Math.round(from) + " mm", Math.max(4, x(from)), 72);
    pen.textAlign = "right";
    pen.fillText(Math.round(to) + " mm", Math.min(wide - 4, x(to)), 72);
  }

  function seconds() { return run ? (window.performance.now() - run.since) / 1000 : 0; }

  /* Each beat is scheduled ahead by the audio clock. */
  function beat() {
    if (!run || !pace.beat_pps) { return; }
    const now = seconds();
    const count = Math.floor(now * pace.beat_pps);
    if (aloud && audio) {
      while (planned / pace.beat_pps < now + AHEAD_S) {
        if (planned / pace.beat_pps >= now) { click(audio.currentTime + planned / pace.beat_pps - now, planned % 4 === 0); }
        planned += 1;
      }
    }
    if (count > told) {
      told = count;
      root.dispatchEvent(new CustomEvent("beat", { detail: { count, at: window.performance.now() - run.since, due: 1000 * count / pace.beat_pps } }));
      if (beats) { beats.textContent = (pace.beat === "pulse" ? "Step " : "Dab ") + count; }
    }
    run.timer = window.setTimeout(beat, Math.max(1, Math.min(100, 1000 * ((told + 1) / pace.beat_pps - seconds()))));
  }

  function click(at, first) {
    const tone = audio.createOscillator();
    const level = audio.createGain();
    tone.frequency.value = first ? 1320 : 880;
    level.gain.setValueAtTime(0.4, at);
    level.gain.exponentialRampToValueAtTime(0.001, at + 0.06);
    tone.connect(level).connect(audio.destination);
    tone.start(at);
    tone.stop(at + 0.07);
  }

  function frame() {
    draw();
    if (run && !document.hidden) { window.requestAnimationFrame(reduced.matches ? () => window.setTimeout(frame, 500) : frame); }
  }

  function say() {
    const sized = window.localStorage.getItem(KEPT) ? "true scale." : "about true scale. Set the scale once.";
    const beats = pace.beat_pps ? (pace.beat === "pulse" ? "Step to the leading edge before each peak." : "Add a dab at each beat.") : "Move steadily.";
    const lap = pace.overlap_pct === null || !pace.step_mm ? "" : " Overlap " + Math.round(pace.overlap_pct) + " %.";
    words.textContent = "The mark shows the travel speed at " + sized + " " + beats + lap;
  }

  if (sound) {
    sound.hidden = !pace.beat_pps;
    sound.addEventListener("click", () => {
      aloud = !aloud;
      sound.setAttribute("aria-pressed", String(aloud));
      audio = audio || (window.AudioContext ? new AudioContext() : null);
      if (audio) { audio.resume(); }
      planned = Math.ceil(seconds() * (pace.beat_pps || 1));
    });
  }

  const card = document.querySelector("[data-card]");
  const width = document.querySelector("[data-card-width]");
  if (card && width) {
    const outline = () => {
      const { pen, wide, high } = fit(card);
      pen.clearRect(0, 0, wide, high);
      pen.strokeStyle = colour("--ink");
      pen.lineWidth = 2;
      pen.strokeRect(6, 6, CARD_MM * scale, 53.98 * scale);
    };
    width.value = String(CARD_MM * scale);
    width.addEventListener("input", () => {
      scale = Number(width.value) / CARD_MM;
      window.localStorage.setItem(KEPT, String(scale));
      outline();
      draw();
      say();
    });
    document.getElementById("scale").addEventListener("toggle", outline);
  }
  window.addEventListener("resize", draw);
  document.addEventListener("visibilitychange", () => { if (run && !document.hidden) { frame(); } });
  say();
  draw();
  return {
    /* The seam continues from one position to another; started this number of seconds ago. */
    start(from, to, ago) {
      this.stop();
      run = { from, to, since: window.performance.now() - 1000 * ago, timer: 0 };
      told = pace.beat_pps ? Math.floor(ago * pace.beat_pps) : 0;
      planned = told + 1;
      beat();
      frame();
    },
    stop() {
      if (run) { window.clearTimeout(run.timer); }
      run = null;
      draw();
    },
    running() { return run !== null; },
  };
};
