/* What moves the steps of a run: the arc by its power source, the arc sensed by this device, the
   clock, or taps. Chosen once, and saved on this device. */
window.arcLead = (root, data, own) => {
  const KEPT = "lead";
  const panel = document.getElementById("lead");
  const line = root.querySelector("[data-lead-line]");
  const status = panel.querySelector("[data-lead-status]");
  const learn = panel.querySelector("[data-lead-learn]");
  const again = panel.querySelector("[data-lead-again]");
  const NAMES = { arc: "The power source moves the steps.", sound: "The sound of the arc moves the steps.", light: "The light of the arc moves the steps.", timed: "The clock moves the steps.", tap: "Your taps move the steps." };
  let mode = own.stored(KEPT, "tap");
  if (!NAMES[mode]) { mode = "tap"; }
  let struck = null;
  let timers = [];

  function clear() {
    timers.forEach((timer) => window.clearTimeout(timer));
    timers = [];
  }

  /* A change of the sensed arc as signals: a short arc before the first long one is a tack, and the
     pool is not seen, so the seam follows at its limit. */
  function changed({ on, at }) {
    clear();
    if (on) {
      struck = at;
      own.signal("strike", at);
      const wait = (seconds, act) => timers.push(window.setTimeout(act, 1000 * Math.max(0, at + seconds - Date.now() / 1000)));
      wait(data.tackS, () => { if (!own.hasWelded()) { own.signal("long", at); } });
      wait(Math.max(data.tackS, data.poolS), () => own.signal("late", at + data.poolS));
    } else if (struck !== null) {
      own.signal(!own.hasWelded() && at - struck < data.tackS ? "tack" : "off", at);
      struck = null;
    }
  }

  function tell(text, state) {
    status.textContent = text;
    status.dataset.state = state;
    const sensed = mode === "sound" || mode === "light";
    line.textContent = sensed && state !== "ready" ? text : NAMES[mode];
    learn.hidden = again.hidden = !(sensed && ["ready", "noisy"].includes(state));
  }
  const sense = window.arcSense(data.sense, changed, tell);

  function begin() {
    sense.stop();
    clear();
    panel.querySelector("[data-lead-port]").hidden = mode !== "arc";
    learn.hidden = again.hidden = true;
    if (mode === "sound" || mode === "light") { sense.start(mode); } else { tell("", ""); }
  }

  panel.querySelectorAll("input[name=lead]").forEach((radio) => {
    radio.checked = radio.value === mode;
    radio.addEventListener("change", () => {
      mode = radio.value;
      own.keep(KEPT, mode);
      begin();
      own.changed();
    });
  });
  panel.querySelector("[data-lead-port]").addEventListener("submit", () => own.keep(KEPT, "arc"));
  learn.addEventListener("click", () => sense.learn());
  again.addEventListener("click", () => sense.start(mode));
  let hiddenAt = null;
  document.addEventListener("visibilitychange", () => {
    if (!sense.running()) { return; }
    if (document.hidden) {
      hiddenAt = Date.now();
    } else if (hiddenAt !== null && Date.now() - hiddenAt > 2000) {
      own.say("This page was hidden for " + Math.round((Date.now() - hiddenAt) / 1000) + " s. The arc was not sensed in that time.");
    }
  });
  begin();
  return {
    mode() { return mode; },
    /* The port for a new session, or "". */
    port() { return mode === "arc" ? panel.querySelector("input[name=port]").value.trim() : ""; },
    feed: sense.feed,
  };
};
