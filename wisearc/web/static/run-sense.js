/* The arc sensed by this device: its sound or its light against a calibrated floor. Only levels are
   looked at, thirty times a second or more. Nothing is recorded, and nothing leaves the device. */

/* The detector: levels in, "on" and "off" out, each with its moment. No device is used here. */
window.arcDetector = (kind, limits) => {
  const own = limits[kind];
  let floor = null;
  let learned = null;
  let recent = [];
  let on = false;
  let quietSince = null;

  const mean = (list) => list.reduce((sum, value) => sum + value, 0) / list.length;
  const spread = (list) => Math.sqrt(mean(list.map((value) => (value - mean(list)) ** 2)));

  function measure(frames, name) {
    const values = frames.map((frame) => frame[name]);
    return { mean: mean(values), spread: spread(values) };
  }

  function isArc(frame, share) {
    const least = Math.max(own.rise, own.spreads * floor.level.spread);
    const rise = learned === null ? least : Math.max(least, 0.5 * (learned - floor.level.mean));
    const above = frame.level - floor.level.mean;
    // The rest of the picture, or of the sound, rises with a lamp or a grinder, and hardly with an arc.
    return above >= share * rise && above - (frame.rest - floor.rest.mean) >= share * own.apart && frame.flat >= own.flat;
  }

  return {
    calibrate(frames) {
      floor = { level: measure(frames, "level"), rest: measure(frames, "rest") };
      recent = [];
      on = false;
      return floor;
    },
    /* The level of an arc on scrap makes the threshold the middle between floor and arc. */
    learn(frames) {
      const level = measure(frames, "level").mean;
      learned = level - floor.level.mean >= own.rise ? level : null;
      return learned !== null;
    },
    isCalibrated() { return floor !== null; },
    take(at, frame) {
      if (floor === null) { return null; }
      recent.push({ at, arc: isArc(frame, on ? own.stay : 1) });
      while (recent.length && at - recent[0].at > own.sustain_s) { recent.shift(); }
      if (!on) {
        const arcs = recent.filter((one) => one.arc).length;
        if (recent.length > 2 && at - recent[0].at >= 0.8 * own.sustain_s && arcs >= own.share * recent.length) {
          on = true;
          quietSince = null;
          return { on: true, at: recent.find((one) => one.arc).at };
        }
        return null;
      }
      if (recent[recent.length - 1].arc) {
        quietSince = null;
      } else if (quietSince === null) {
        quietSince = at;
      } else if (at - quietSince >= own.release_s) {
        on = false;
        recent = [];
        return { on: false, at: quietSince };
      }
      return null;
    },
  };
};

/* The frame of a sound: mean level of its hiss, dB; level below it, dB; flatness of the hiss, 0 to 1. */
window.arcSoundFrame = (spectrumDb, rate, limits) => {
  const width = rate / 2 / spectrumDb.length;
  const powers = (from, to) => spectrumDb.subarray(Math.floor(from / width), Math.ceil(to / width)).map((db) => 10 ** (Math.max(db, -140) / 10));
  const db = (list) => 10 * Math.log10(list.reduce((sum, value) => sum + value, 0) / list.length + 1e-14);
  const hiss = powers(...limits.sound.hiss_hz);
  const logs = hiss.reduce((sum, value) => sum + Math.log(value + 1e-14), 0) / hiss.length;
  const average = hiss.reduce((sum, value) => sum + value, 0) / hiss.length;
  return { level: db(hiss), rest: db(powers(...limits.sound.rest_hz)), flat: Math.exp(logs) / (average + 1e-14) };
};

/* The frame of a picture: its brightest spot and its middle cell, 0 to 255. A spot has several cells,
   so that a spark is none. */
window.arcLightFrame = (pixels) => {
  const SPOT_CELLS = 6;
  // An array of numbers sorts by value, and several times faster than a list.
  const cells = new Float32Array(pixels.length / 4);
  for (let i = 0; i < pixels.length; i += 4) { cells[i / 4] = (pixels[i] + pixels[i + 1] + pixels[i + 2]) / 3; }
  cells.sort();
  return { level: cells[cells.length - SPOT_CELLS], rest: cells[Math.floor(cells.length / 2)], flat: 1 };
};

/* Listen or look, calibrate, and report each change. `report` receives {on, at} in seconds of this
   device; `show` receives the text of the state. */
window.arcSense = (limits, report, show) => {
  const CALIBRATE_S = 2;
  const EVERY_MS = 20;
  let stream = null;
  let audio = null;
  let timer = 0;
  let detector = null;
  let collect = null;
  let kind = "";

  const now = () => Date.now() / 1000;

  function stop() {
    window.clearInterval(timer);
    if (stream) { stream.getTracks().forEach((track) => track.stop()); }
    if (audio) { audio.close(); }
    stream = audio = detector = collect = null;
  }

  function take(frame) {
    if (collect) {
      collect.frames.push(frame);
      return;
    }
    const change = detector.take(now(), frame);
    if (change) { report(change); }
  }

  async function listen() {
    stream = await navigator.mediaDevices.getUserMedia({ audio: { echoCancellation: false, noiseSuppression: false, autoGainControl: false } });
    audio = new AudioContext();
    await audio.resume();
    const analyser = audio.createAnalyser();
    analyser.fftSize = 2048;
    analyser.smoothingTimeConstant = 0;
    audio.createMediaStreamSource(stream).connect(analyser);
    const spectrum = new Float32Array(analyser.frequencyBinCount);
    timer = window.setInterval(() => {
      analyser.getFloatFrequencyData(spectrum);
      take(window.arcSoundFrame(spectrum, audio.sampleRate, limits));
    }, EVERY_MS);
  }

  async function look() {
    stream = await navigator.mediaDevices.getUserMedia({ video: { width: 320, height: 240, frameRate: 30, facingMode: "environment" } });
    const video = document.createElement("video");
    video.muted = true;
    video.playsInline = true;
    video.srcObject = stream;
    await video.play();
    const canvas = document.createElement("canvas");
    canvas.width = 32;
    canvas.height = 24;
    const pen = canvas.getContext("2d", { willReadFrequently: true });
    timer = window.setInterval(() => {
      pen.drawImage(video, 0, 0, canvas.width, canvas.height);
      take(window.arcLightFrame(pen.getImageData(0, 0, canvas.width, canvas.height).data));
    }, EVERY_MS);
  }

  /* Collect frames for a time. */
  function gather() {
    return new Promise((resolve) => {
      collect = { frames: [] };
      window.setTimeout(() => {
        const { frames } = collect || { frames: [] };
        collect = null;
        resolve(frames);
      }, 1000 * CALIBRATE_S);
    });
  }

  function refusal(error) {
    const device = kind === "sound" ? "microphone" : "camera";
    if (error.name === "NotAllowedError") { return "The browser does not allow the " + device + ". Allow it in the settings of this page, or use timed mode."; }
    if (error.name === "NotFoundError") { return "This device has no " + device + ". Use timed mode."; }
    return "The " + device + " does not start: another program may use it. Close that program, or use timed mode.";
  }

  return {
    async start(wanted) {
      stop();
      kind = wanted;
      if (!window.isSecureContext || !navigator.mediaDevices) {
        show("This page came over http. A browser gives its microphone and camera only to a secure page. Use timed mode, or open the secure address.", "refused");
        return false;
      }
      detector = window.arcDetector(kind, limits);
      try {
        await (kind === "sound" ? listen() : look());
      } catch (error) {
        stop();
        show(refusal(error), "refused");
        return false;
      }
      show("Measuring the room. Do not weld yet.", "calibrating");
      const frames = await gather();
      if (!detector) { return false; }
      if (frames.length < 10) {
        stop();
        show("No levels arrive from the device. Use timed mode.", "refused");
        return false;
      }
      const floor = detector.calibrate(frames);
      const noisy = floor.level.spread > limits[kind].noisy || floor.level.mean > limits[kind].max_floor;
      show(noisy ? "The room is too loud or too bright: a start may be missed. Measure again, or use timed mode." : "Ready. The arc moves the steps.", noisy ? "noisy" : "ready");
      return true;
    },
    async learn() {
      if (!detector) { return; }
      show("Weld on scrap now, for two seconds.", "calibrating");
      const frames = await gather();
      if (!detector || !frames.length) { return; }
      const heard = detector.learn(frames.slice(Math.floor(frames.length / 2)));
      show(heard ? "Ready. This page uses the level of your arc until you close it." : "No arc was sensed. Put the device closer, and learn again.", heard ? "ready" : "noisy");
    },
    stop,
    running() { return detector !== null; },
    /* For a test with generated levels. */
    feed: take,
  };
};
