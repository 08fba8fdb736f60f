/* Cues for a welder under the hood: the browser's own voice, or tones where it has none. Volume,
   language and which cues are chosen once, and saved on this device. */
window.arcCues = (root, data, stored, keep) => {
  const KEPT = "cues";
  const NOTE_S = 0.14;
  const settings = { on: false, volume: 0.8, language: data.language, off: [], tones: false, ...stored(KEPT, {}) };
  const switcher = root.querySelector("[data-cues-switch]");
  const panel = document.getElementById("cues");
  const heard = panel.querySelector("[data-cues-heard]");
  let audio = null;
  let last = "";

  function save() { keep(KEPT, settings); }

  function ready() {
    audio = audio || (window.AudioContext ? new AudioContext() : null);
    if (audio) { audio.resume(); }
  }

  function findVoice() {
    const voices = window.speechSynthesis ? window.speechSynthesis.getVoices() : [];
    return voices.find((voice) => voice.lang.toLowerCase().startsWith(settings.language)) || null;
  }

  function format(key, values) {
    const distance = data.unit === "in" ? (values.mm / 25.4).toFixed(1) : String(Math.round(values.mm));
    const text = data.cues[key].texts[settings.language];
    return text.replace("{n}", values.n).replace("{s}", values.s).replace("{d}", distance + " " + data.languages[settings.language].units[data.unit]);
  }

  function play(tones) {
    ready();
    if (!audio) { return; }
    tones.forEach((frequency, n) => {
      const at = audio.currentTime + n * NOTE_S;
      const tone = audio.createOscillator();
      const level = audio.createGain();
      tone.frequency.value = frequency;
      level.gain.setValueAtTime(0.001 + settings.volume * 0.6, at);
      level.gain.exponentialRampToValueAtTime(0.001, at + NOTE_S);
      tone.connect(level).connect(audio.destination);
      tone.start(at);
      tone.stop(at + NOTE_S);
    });
  }

  function say(key, values) {
    if (!settings.on || settings.off.includes(key) || !data.cues[key]) { return; }
    last = format(key, values || {});
    root.dataset.cue = last;
    const voice = settings.tones ? null : findVoice();
    if (!voice) {
      play(data.cues[key].tones);
      return;
    }
    const words = new SpeechSynthesisUtterance(last);
    words.voice = voice;
    words.lang = voice.lang;
    words.volume = settings.volume;
    // A new cue replaces one that is late.
    window.speechSynthesis.cancel();
    window.speechSynthesis.speak(words);
  }

  function show() {
    switcher.setAttribute("aria-pressed", String(settings.on));
    switcher.textContent = settings.on ? "Cues on" : "Cues off";
    const voice = findVoice();
    heard.textContent = settings.tones ? "This device plays a tone for each cue." : voice ? "This device speaks the cues: " + voice.name + "." : "This device has no voice for this language. It plays a tone for each cue.";
  }

  panel.querySelectorAll("[data-cue]").forEach((box) => {
    box.checked = !settings.off.includes(box.dataset.cue);
    box.addEventListener("change", () => {
      settings.off = Array.from(panel.querySelectorAll("[data-cue]:not(:checked)"), (one) => one.dataset.cue);
      save();
    });
  });
  const fields = { "[data-cues-volume]": "volume", "[data-cues-language]": "language", "[data-cues-tones]": "tones" };
  Object.entries(fields).forEach(([selector, name]) => {
    const field = panel.querySelector(selector);
    if (field.type === "checkbox") { field.checked = settings[name]; } else { field.value = String(settings[name]); }
    field.addEventListener("change", () => {
      settings[name] = field.type === "checkbox" ? field.checked : field.type === "range" ? Number(field.value) : field.value;
      save();
      show();
    });
  });
  panel.querySelectorAll("[data-cues-try]").forEach((button) => {
    button.addEventListener("click", () => {
      const was = settings.on;
      settings.on = true;
      say("hold", { s: 4 });
      settings.on = was;
    });
  });
  switcher.addEventListener("click", () => {
    settings.on = !settings.on;
    save();
    ready();
    show();
    say("strike");
  });
  if (window.speechSynthesis) { window.speechSynthesis.addEventListener("voiceschanged", show); }
  show();

  /* Speak the cues of a step that are due. A step that is entered late speaks only its latest. The
     same cue of two origins, the meter and the clock, is spoken once. */
  let current = "";
  let said = 0;
  let spoken = new Set();
  function once(key, values) {
    if (!spoken.has(key)) { say(key, values); }
    spoken.add(key);
  }
  return {
    say,
    once,
    play,
    follow(step, since, passed) {
      const visit = step.key + "@" + since;
      if (visit !== current) {
        current = visit;
        spoken = new Set();
        // A cue from before this step was shown is not repeated.
        said = step.cues.filter((cue) => cue.at < passed - 1).length;
      }
      const due = step.cues.filter((cue) => cue.at <= passed).length;
      if (due > said) {
        const cue = step.cues[due - 1];
        said = due;
        once(cue.key, cue.values);
      }
    },
  };
};
