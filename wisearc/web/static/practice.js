/* The virtual seam. The samples of the torch go to the server step by step, and its answers are drawn.
   No weld is calculated here. A try without connection is saved on this device, and judged later. */
(() => {
  const root = document.querySelector("[data-seam]");
  const source = document.getElementById("seam-data");
  if (!root || !source) { return; }
  const data = JSON.parse(source.textContent);
  const token = document.querySelector('[data-token] input[name="csrf_token"]').value;
  const part = (name) => root.querySelector("[data-" + name + "]");
  const STEP_S = 0.025;
  const MAX_TRY_S = 240;
  const RETRY_MS = 1500;
  const ROD_MS = 160;
  const LIVE_EVERY = 8;
  // What is due after the arc: in words, while the gas flows and after.
  const STILL = "Keep still until the gas stops.";
  const AFTER_ARC = {
    hold: [STILL, ""],
    restart: [STILL + " Then strike again in the crater.", "Strike again in the crater."],
    "next-mark": [STILL + " Then go to the next mark.", "Go to the next mark."],
  };
  const view = window.arcSheet(part("sheet"), data.tints);
  const strip = window.arcStrip(part("strip"));
  const hand = window.arcHand({
    sheet: part("sheet"), pedal: part("pedal"), arc: part("arc"), dab: part("dab"), view,
    began: () => { state = "welding"; say(hintWhileWelding()); judgeButton.hidden = true; },
    dabbed: () => { view.rodUntil = window.performance.now() + ROD_MS; },
  });
  const judgeButton = part("judge-now");
  const replayButton = part("replay");
  let state = "preparing";
  let piece = null;
  let seam = "";
  let sentSamples = 0;
  let sentDabs = 0;
  let busy = false;
  let opened = false;
  let due = "strike";
  let lastFrame = 0;
  let ideal = null;
  let idealSince = null;
  let play = null;
  let last = null;
  let lost = false;
  let timings = [];
  let pending = [];
  let once = "";
  let liveAt = { x: 0, t: 0, n: 0 };
  let audio = null;
  let aloud = false;
  let nextBeat = 0;
  view.inches = data.units === "in";
  view.hasRod = data.has_rod;

  function say(words) { part("hint").textContent = words; }

  function randomKey() {
    const bytes = window.crypto.getRandomValues(new Uint8Array(16));
    return Array.from(bytes, (b) => b.toString(16).padStart(2, "0")).join("");
  }

  async function post(address, body) {
    const response = await window.fetch(address, {
      method: "POST", body: JSON.stringify(body),
      headers: { "Content-Type": "application/json", Accept: "application/json", "X-CSRFToken": token },
    });
    const answer = await response.json().catch(() => ({ error: "The server did not answer. Try again." }));
    if (!response.ok) { throw Object.assign(new Error(answer.error || "The server refused this. Reload the page."), { refused: response.status < 500 }); }
    return answer;
  }

  function speed(mmPerS) {
    return data.units === "in" ? (mmPerS * 60 / 25.4).toFixed(1) + " in/min" : mmPerS.toFixed(1) + " mm/s";
  }

  function hintReady() {
    if (piece && piece.tack_marks_mm.length) { return "Place the torch on mark 1, hold until the pool joins both edges, release, and keep still until the gas stops."; }
    const how = hand.by === "press" ? "Hold the mouse button, Space or the arc button for the arc" : "Raise the pedal for the arc";
    return how + ", wait for the pool, then move along the seam. Stay still until the gas stops.";
  }

  function hintWhileWelding() { return data.has_rod ? "Pool, then travel. Dab with Enter, a second finger or the Dab button." : "Wait for the pool, then travel evenly."; }

  async function open() {
    seam = randomKey();
    opened = false;
    const answer = await post(data.addresses.open, { seam, samples: hand.samples, dabs: hand.dabs });
    piece = Object.assign(answer.piece, { travel_text: speed(answer.piece.travel_mm_s) });
    opened = true;
    return answer;
  }

  async function begin() {
    state = "preparing";
    play = null;
    due = "strike";
    once = randomKey();
    idealSince = null;
    sentSamples = 0;
    sentDabs = 0;
    hand.samples = [];
    hand.dabs = [];
    view.ghost = null;
    try {
      await open();
      view.reset(piece);
      strip.reset(piece);
      hand.reset(piece);
      state = "ready";
      say(hintReady());
      part("readout").textContent = "";
      lost = false;
    } catch (error) {
      state = "failed";
      say(error.refused ? error.message : "No connection to the server. It is tried again.");
      if (!error.refused) { window.setTimeout(begin, RETRY_MS); }
    }
  }

  /* Send the new samples, one request at a time. */
  async function send() {
    if (busy || !opened || (state !== "welding" && state !== "playing")) { return; }
    const samples = hand.samples.slice(sentSamples);
    if (!samples.length || samples[samples.length - 1][0] < lastFrame + STEP_S) { return; }
    busy = true;
    const dabs = hand.dabs.slice(sentDabs);
    const upTo = hand.samples.length;
    const dabsTo = hand.dabs.length;
    const key = seam;
    try {
      let frame = await post(data.addresses.step, { seam, samples, dabs });
      if (frame["no-seam"]) {
        // The server started again: it gets all earlier samples.
        const known = hand.samples.length;
        const again = await open();
        frame = again.frame;
        view.reset(piece);
        sentSamples = known;
        sentDabs = hand.dabs.length;
      } else if (key === seam) {
        sentSamples = upTo;
        sentDabs = dabsTo;
      }
      if (lost) { lost = false; forget(); say(hintWhileWelding()); }
      if (frame) { show(frame); }
    } catch (error) {
      if (error.refused) { say(error.message); } else { saveLost(); }
      await new Promise((done) => window.setTimeout(done, RETRY_MS / 3));
    }
    busy = false;
  }

  function show(frame) {
    lastFrame = frame.t || 0;
    view.take(frame);
    view.draw(window.performance.now());
    pending = pending.filter((at) => { if (at[0] <= lastFrame) { timings.push(window.performance.now() - at[1]); return false; } return true; });
    if (timings.length > 2000) { timings = timings.slice(-1000); }
    note(frame);
    const now = hand.now();
    judgeButton.hidden = state !== "welding" || frame.due === "weld" || frame.due === "strike";
    due = frame.due;
    if (state === "welding" && due === "done") { endTry(); }
    if (state === "welding" && due in AFTER_ARC) { say(AFTER_ARC[due][frame.gas ? 0 : 1]); }
    if (state === "welding" && now > MAX_TRY_S) { hand.drop(); endTry(); }
  }

  /* Travel and current as they are, every fifth of a second, to be read and in the strip. */
  function note(frame) {
    if (frame.n - liveAt.n < LIVE_EVERY) { if (frame.n < liveAt.n) { liveAt = { x: hand.x, t: frame.t, n: frame.n }; } return; }
    const pace = (hand.x - liveAt.x) / Math.max(0.05, frame.t - liveAt.t);
    liveAt = { x: hand.x, t: frame.t, n: frame.n };
    if (frame.arc && Math.abs(hand.x - piece.start_mm) > 0.5) {
      strip.add(hand.x, Math.max(0, pace), hand.current);
      strip.draw();
    }
    const width = data.units === "in" ? (frame.w / 25.4 || 0).toFixed(3) + " in" : (frame.w || 0).toFixed(1) + " mm";
    part("readout").textContent = "Pool " + width + " · " + speed(Math.max(0, pace)) + " · " + Math.round(hand.current) + " A";
  }

  /* The mark of the plan moves on from the moment at which a weld without a slip would. */
  function moveGhost() {
    if (!piece || state !== "welding" || due in AFTER_ARC || piece.tack_marks_mm.length) { view.ghost = null; return; }
    if (idealSince === null && Math.abs(hand.x - piece.start_mm) > 0.8) { idealSince = window.performance.now() - 800 / piece.travel_mm_s; }
    if (idealSince === null) { view.ghost = piece.start_mm; return; }
    const end = piece.stop_mm && hand.x < piece.stop_mm ? piece.stop_mm : piece.end_mm;
    view.ghost = Math.min(end, piece.start_mm + piece.travel_mm_s * (window.performance.now() - idealSince) / 1000);
  }

  function buildTrack() { return { samples: hand.samples, dabs: hand.dabs, gas_off_s: null, once }; }

  function keep(track) {
    try { window.localStorage.setItem(data.saved_as, JSON.stringify(track)); } catch (error) { /* the device has no room */ }
  }

  function forget() { window.localStorage.removeItem(data.saved_as); }

  /* Without a server nothing is known to be due: after the arc, the try can be judged. */
  function saveLost() {
    if (state !== "welding") { say("No connection to the server. The replay continues when it answers."); return; }
    keep(buildTrack());
    judgeButton.hidden = hand.current > 0;
    if (!lost) { say("No connection: your try is saved on this device. Weld on, or wait."); }
    lost = true;
  }

  async function endTry() {
    if (state !== "welding") { return; }
    state = "judging";
    judgeButton.hidden = true;
    view.ghost = null;
    const track = buildTrack();
    keep(track);
    await judge(track);
  }

  async function judge(track) {
    say("Judging your bead.");
    try {
      const answer = await post(data.addresses.judge, track);
      forget();
      last = track;
      view.take(Object.assign({}, answer.frame, { pool: [] }));
      view.marks = answer.text.marks;
      strip.set(answer.travel, answer.current);
      showResult(answer.text);
      state = "judged";
      replayButton.hidden = false;
      part("readout").textContent = "";
      say("Judged. Look at the bead, then change one thing.");
    } catch (error) {
      state = "judged";
      if (error.refused) { say(error.message); forget(); return; }
      say("No connection: your try is saved on this device. It is judged as soon as the server answers.");
      window.setTimeout(() => { if (state === "judged") { judge(track); } }, 2 * RETRY_MS);
    }
  }

  function showResult(text) {
    part("before").hidden = true;
    part("judged").hidden = false;
    part("score").textContent = text.score;
    part("try").textContent = text.number;
    part("since").textContent = text.since;
    const aspects = part("aspects");
    aspects.replaceChildren();
    for (const it of text.aspects) {
      const label = document.createElement("span");
      label.textContent = it.label;
      const bar = document.createElement("meter");
      bar.max = 100;
      bar.value = it.score;
      bar.setAttribute("aria-label", it.label);
      const value = document.createElement("b");
      value.textContent = Math.round(it.score);
      aspects.append(label, bar, value);
    }
    part("slip").textContent = text.slip;
    part("change").textContent = text.change ? text.change + "." : "";
    part("watch").textContent = text.watch;
    const notes = part("notes");
    notes.replaceChildren();
    for (const words of text.notes) {
      const line = document.createElement("li");
      line.textContent = words;
      notes.append(line);
    }
    part("verdict").textContent = "The bead: " + text.verdict.toLowerCase() + ". " + text.why;
  }

  /* A track is played in its own time, with the bead that it leaves. */
  async function replay(track, words) {
    await begin();
    if (state !== "ready") { return; }
    state = "playing";
    hand.playing = true;
    hand.samples = [];
    hand.dabs = [];
    play = { track, since: window.performance.now(), at: 0, dab: 0, words };
    say(words);
    if (!ideal) { ideal = await post(data.addresses.show, {}).catch(() => null); }
    view.planned = ideal ? ideal.frame.bead.filter((row) => row[2] > row[1]) : null;
  }

  function playOn() {
    const t = (window.performance.now() - play.since) / 1000;
    const rows = play.track.samples;
    while (play.at < rows.length && rows[play.at][0] <= t) { hand.samples.push(rows[play.at]); play.at += 1; }
    while (play.dab < play.track.dabs.length && play.track.dabs[play.dab] <= t) {
      hand.dabs.push(play.track.dabs[play.dab]);
      play.dab += 1;
      view.rodUntil = window.performance.now() + ROD_MS;
    }
    const at = rows[Math.max(0, Math.min(rows.length - 1, play.at - 1))];
    hand.x = at[1];
    hand.y = at[2];
    hand.current = at[3];
    hand.lifted = Math.abs(at[2]) > 30;
    if (ideal) {
      let i = ideal.samples.findIndex((row) => row[0] > t);
      if (i < 0) { i = ideal.samples.length - 1; }
      view.ghost = ideal.samples[i][1];
    }
    if (play.at >= rows.length) {
      state = "judged";
      hand.playing = false;
      view.ghost = null;
      play = null;
      say("That was it. Start again when you are ready.");
    }
  }

  function beat() {
    if (!aloud || !audio || !piece || !piece.beat_s || state !== "welding") { nextBeat = 0; return; }
    if (nextBeat < audio.currentTime - 0.2) { nextBeat = audio.currentTime + 0.05; }
    while (nextBeat < audio.currentTime + 0.2) {
      const tone = audio.createOscillator();
      const volume = audio.createGain();
      tone.frequency.value = 880;
      volume.gain.setValueAtTime(0.25, nextBeat);
      volume.gain.exponentialRampToValueAtTime(0.001, nextBeat + 0.06);
      tone.connect(volume).connect(audio.destination);
      tone.start(nextBeat);
      tone.stop(nextBeat + 0.08);
      nextBeat += piece.beat_s;
    }
  }

  let before = window.performance.now();
  function frame(time) {
    const seconds = Math.min(0.1, (time - before) / 1000);
    before = time;
    if (state === "playing") { playOn(); } else if (state === "ready" || state === "welding") {
      hand.tick(seconds);
      if (state === "welding" && hand.samples.length) {
        const at = hand.samples[hand.samples.length - 1][0];
        if (!pending.length || pending[pending.length - 1][0] < at) { pending.push([at, window.performance.now()]); }
        if (pending.length > 400) { pending = pending.slice(-200); }
      }
    }
    view.torch = piece && !hand.lifted ? { x: hand.x, y: hand.y } : null;
    const live = state === "ready" || state === "welding" || state === "playing";
    if (!live) { view.torch = null; }
    moveGhostUnlessPlaying();
    if (piece) { view.draw(time); part("pedal-value").textContent = Math.round(hand.current) + " A"; }
    send();
    beat();
    window.requestAnimationFrame(frame);
  }

  function moveGhostUnlessPlaying() { if (state !== "playing") { moveGhost(); } }

  part("again").addEventListener("click", begin);
  judgeButton.addEventListener("click", endTry);
  replayButton.addEventListener("click", () => { if (last) { replay(last, "Your try again. The mark is the plan at this moment, the dashed outline its bead."); } });
  part("watch-good").addEventListener("click", async () => {
    say("Preparing a good one.");
    try { ideal = ideal || await post(data.addresses.show, {}); } catch (error) { say(error.message); return; }
    replay({ samples: ideal.samples, dabs: ideal.dabs }, "A weld without a slip: look at start, beat, taper and the still end.");
  });
  part("by").addEventListener("change", (event) => {
    hand.by = event.target.value;
    window.localStorage.setItem("practice-by", hand.by);
    showControls();
    if (state === "ready") { say(hintReady()); }
  });
  part("face").addEventListener("click", (event) => {
    view.showRoot = !view.showRoot;
    event.currentTarget.setAttribute("aria-pressed", String(view.showRoot));
    event.currentTarget.textContent = view.showRoot ? "Show the face" : "Show the root";
    if (piece) { view.repaint(); }
  });
  part("sound").addEventListener("click", (event) => {
    aloud = !aloud;
    audio = audio || new window.AudioContext();
    event.currentTarget.setAttribute("aria-pressed", String(aloud));
    event.currentTarget.textContent = "Sound of the beat: " + (aloud ? "on" : "off");
  });
  document.addEventListener("visibilitychange", () => {
    if (document.hidden && state === "welding") {
      hand.drop();
      endTry();
      say("The page was hidden, so the arc was broken. The try was judged as far as it went.");
    }
  });
  window.addEventListener("resize", () => strip.draw());

  function showControls() {
    part("pedal-row").hidden = hand.by !== "pedal";
    part("arc").hidden = hand.by !== "press";
    part("by").value = hand.by;
  }

  const coarse = window.matchMedia("(pointer: coarse)").matches;
  hand.by = window.localStorage.getItem("practice-by") || (coarse ? "pedal" : "press");
  showControls();
  window.requestAnimationFrame(frame);
  // For measurements: from a sample of the hand to the frame that shows it, ms.
  root.arcTimings = () => timings.slice();
  /* A try of before, without connection, is judged as soon as there is a sheet to show it on. */
  async function judgeSaved(text) {
    while (state !== "ready") { await new Promise((done) => window.setTimeout(done, 200)); }
    say("An earlier try is saved on this device. It is judged now.");
    state = "judging";
    await judge(JSON.parse(text));
  }

  const saved = window.localStorage.getItem(data.saved_as);
  begin();
  if (saved) { judgeSaved(saved); }
})();
