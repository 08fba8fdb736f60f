/* The hand at a virtual seam: pointer, finger, keys, slider or gamepad become torch, current and dabs.
   A sample has time s, along the seam mm, across it mm (up is positive) and the current A that is asked for. */
window.arcHand = (parts) => {
  const SAMPLE_MS = 5;
  const STEP_S = 0.025;
  const FINE_MM_S = 1.5;
  const DAB_GAP_MS = 90;
  const LIFTED_MM = 60;
  const PAD_DEAD = 0.04;
  const rests = new Map();
  const hand = {
    x: 0, y: 0, current: 0, over: false, lifted: false, by: "press",
    samples: [], dabs: [], since: null, piece: null, playing: false,
  };
  const keys = new Set();
  let pressed = false;
  let torchPointer = null;
  let grabbed = null;
  let lastDab = 0;
  let lastSample = -1;
  let padDown = false;

  function now() { return hand.since === null ? 0 : (window.performance.now() - hand.since) / 1000; }

  function push(force) {
    if (hand.since === null || hand.playing) { return; }
    const t = now();
    if (!force && (t - lastSample) * 1000 < SAMPLE_MS) { return; }
    if (t <= lastSample) { return; }
    lastSample = t;
    hand.samples.push([round(t), round(hand.x), round(hand.lifted ? LIFTED_MM : hand.y), round(hand.lifted ? 0 : hand.current)]);
  }

  function round(value) { return Math.round(value * 10000) / 10000; }

  function start() {
    hand.since = window.performance.now();
    hand.samples = [[0, round(hand.x), round(hand.y), 0]];
    hand.dabs = [];
    lastSample = 0;
    lastDab = 0;
  }

  /* The current: a button rises and falls by the slopes of the machine, a slider or a pedal is
     the current itself. */
  function ask(seconds) {
    if (!hand.piece) { return; }
    const peak = hand.piece.peak_a;
    if (hand.by === "press") {
      const held = pressed || keys.has(" ");
      const rate = held ? peak / hand.piece.up_s : -peak / hand.piece.taper_s;
      hand.current = Math.min(peak, Math.max(0, hand.current + rate * seconds));
    } else if (hand.by === "pedal") {
      hand.current = peak * Number(parts.pedal.value) / 100;
    } else {
      hand.current = peak * Number(parts.pedal.max) / 100 * readPad();
    }
    const least = hand.piece.min_arc_a;
    if (hand.current < least) { hand.current = hand.by === "press" && (pressed || keys.has(" ")) ? least : 0; }
    if (hand.current > 0 && hand.since === null && !hand.playing) {
      start();
      parts.began();
    }
  }

  /* A standard gamepad has triggers. Any other device is a pedal: the axis that moves away from its rest is the
     current, so that a pedal that rests in the middle or at an end starts at nothing. */
  function readPad() {
    const pads = window.navigator.getGamepads ? window.navigator.getGamepads() : [];
    for (const pad of pads) {
      if (!pad) { continue; }
      const down = Boolean(pad.buttons[0] && pad.buttons[0].pressed);
      if (down && !padDown) { dab(); }
      padDown = down;
      const triggers = pad.mapping === "standard" ? [pad.buttons[6], pad.buttons[7]] : [];
      const values = triggers.filter(Boolean).map((trigger) => trigger.value);
      if (pad.mapping !== "standard") {
        const rest = rests.get(pad.index) || Array.from(pad.axes);
        rests.set(pad.index, rest);
        pad.axes.forEach((value, i) => values.push(Math.abs(value - rest[i]) / (1 + Math.abs(rest[i]))));
      }
      const value = Math.max(0, ...values);
      return value < PAD_DEAD ? 0 : Math.min(1, value);
    }
    return 0;
  }

  function moveByKeys(seconds) {
    if (!hand.piece) { return; }
    const pace = hand.piece.travel_mm_s * (keys.has("Shift") ? 3 : 1);
    const along = (keys.has("ArrowRight") ? 1 : 0) - (keys.has("ArrowLeft") ? 1 : 0);
    const across = (keys.has("ArrowUp") ? 1 : 0) - (keys.has("ArrowDown") ? 1 : 0);
    if (along || across) {
      hand.over = true;
      hand.lifted = false;
      place(hand.x + along * pace * seconds, hand.y + across * FINE_MM_S * seconds);
    }
  }

  function place(x, y) {
    const margin = 15;
    hand.x = Math.min(hand.piece.length_mm + margin, Math.max(-margin, x));
    hand.y = Math.min(25, Math.max(-25, y));
  }

  /* Called for every drawn frame: keys and current act, and a sample closes every step. */
  function tick(seconds) {
    if (hand.playing) { return; }
    moveByKeys(seconds);
    ask(seconds);
    push(false);
    if (hand.since !== null && now() - lastSample > STEP_S) { push(true); }
  }

  function dab() {
    const at = window.performance.now();
    if (hand.since === null || hand.playing || at - lastDab < DAB_GAP_MS) { return; }
    lastDab = at;
    push(true);
    hand.dabs.push(round(now()));
    parts.dabbed();
  }

  function mm(event) { return parts.view.toMm(event); }

  parts.sheet.addEventListener("pointerdown", (event) => {
    if (!hand.piece) { return; }
    event.preventDefault();
    parts.sheet.focus({ preventScroll: true });
    if (torchPointer !== null && event.pointerId !== torchPointer) { dab(); return; }
    torchPointer = event.pointerId;
    parts.sheet.setPointerCapture(event.pointerId);
    hand.lifted = false;
    hand.over = true;
    const at = mm(event);
    if (event.pointerType === "touch") {
      // A finger covers the torch: it drags the torch from where it is.
      grabbed = { x: hand.x - at.x, y: hand.y - at.y };
    } else {
      grabbed = null;
      place(at.x, at.y);
      if (hand.by === "press" && event.button === 0) { pressed = true; }
    }
    if (event.button === 2) { dab(); }
    push(true);
  });
  parts.sheet.addEventListener("pointermove", (event) => {
    if (!hand.piece || (torchPointer !== null && event.pointerId !== torchPointer)) { return; }
    if (event.pointerType === "touch" && torchPointer === null) { return; }
    const all = event.getCoalescedEvents ? event.getCoalescedEvents() : [];
    const last = all.length ? all[all.length - 1] : event;
    const at = mm(last);
    hand.over = true;
    hand.lifted = false;
    place(at.x + (grabbed ? grabbed.x : 0), at.y + (grabbed ? grabbed.y : 0));
    push(false);
  });
  function release(event) {
    if (event.pointerId !== torchPointer) { return; }
    torchPointer = null;
    grabbed = null;
    pressed = false;
    push(true);
    if (event.pointerType === "touch" || event.type === "pointercancel") { lift(); }
  }
  parts.sheet.addEventListener("pointerup", release);
  parts.sheet.addEventListener("pointercancel", release);
  parts.sheet.addEventListener("pointerleave", (event) => {
    if (torchPointer === null && event.pointerType !== "touch") { lift(); }
  });
  parts.sheet.addEventListener("contextmenu", (event) => event.preventDefault());

  function lift() {
    hand.lifted = true;
    hand.over = false;
    push(true);
  }

  parts.sheet.addEventListener("keydown", (event) => {
    if (event.key === "Enter") { event.preventDefault(); if (!event.repeat) { dab(); } return; }
    if ([" ", "ArrowLeft", "ArrowRight", "ArrowUp", "ArrowDown", "Shift"].includes(event.key)) {
      if (event.key !== "Shift") { event.preventDefault(); event.stopPropagation(); }
      hand.lifted = false;
      keys.add(event.key);
    }
  });
  parts.sheet.addEventListener("keyup", (event) => { keys.delete(event.key); });
  parts.sheet.addEventListener("blur", () => keys.clear());

  if (parts.arc) {
    const hold = (event) => { event.preventDefault(); pressed = true; parts.arc.classList.add("is-held"); };
    const loose = () => { if (torchPointer === null || parts.arc.classList.contains("is-held")) { pressed = false; } parts.arc.classList.remove("is-held"); };
    parts.arc.addEventListener("pointerdown", (event) => { hold(event); parts.arc.setPointerCapture(event.pointerId); });
    parts.arc.addEventListener("pointerup", loose);
    parts.arc.addEventListener("pointercancel", loose);
    parts.arc.addEventListener("keydown", (event) => { if (event.key === " " || event.key === "Enter") { hold(event); } });
    parts.arc.addEventListener("keyup", loose);
  }
  if (parts.dab) {
    parts.dab.addEventListener("pointerdown", (event) => { event.preventDefault(); dab(); });
    parts.dab.addEventListener("keydown", (event) => { if (event.key === " " || event.key === "Enter") { event.preventDefault(); if (!event.repeat) { dab(); } } });
  }

  hand.tick = tick;
  hand.now = now;
  hand.dab = dab;
  hand.press = (on) => { pressed = on; };
  hand.drop = () => { pressed = false; keys.clear(); hand.current = 0; push(true); lift(); };
  hand.reset = (piece) => {
    Object.assign(hand, { piece, x: piece.start_mm, y: 0, current: 0, samples: [], dabs: [], since: null, playing: false, lifted: false });
    lastSample = -1;
    pressed = false;
    keys.clear();
    if (parts.pedal) { parts.pedal.value = "0"; }
  };
  return hand;
};
