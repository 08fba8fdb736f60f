/* The field of heat on a canvas: map, play, probe and section. The element <heat-field src> asks
   for its field, shows progress, and draws. Its light content is the page without script. */
(() => {
  const STOPS = [
    [0, [27, 31, 38]], [290, [58, 47, 86]], [525, [126, 52, 92]], [800, [186, 84, 52]],
    [1100, [226, 150, 60]], [1450, [246, 214, 120]], [2200, [255, 253, 240]],
  ];
  const MAX_C = 2400;
  const POLL_MS = 60;
  const lut = new Uint32Array(MAX_C + 1);
  for (let t = 0; t <= MAX_C; t += 1) {
    let i = 0;
    while (i < STOPS.length - 2 && t > STOPS[i + 1][0]) { i += 1; }
    const part = Math.min(1, (t - STOPS[i][0]) / (STOPS[i + 1][0] - STOPS[i][0]));
    const c = STOPS[i][1].map((v, k) => Math.round(v + part * (STOPS[i + 1][1][k] - v)));
    lut[t] = (255 << 24) | (c[2] << 16) | (c[1] << 8) | c[0];
  }
  const WHITE = 0xffffffff;
  const CYAN = 0xfff5d27a;
  const GREEN = 0xffb7f27a;

  function unpack(text) {
    const raw = atob(text);
    const bytes = new Uint8Array(raw.length);
    for (let i = 0; i < raw.length; i += 1) { bytes[i] = raw.charCodeAt(i); }
    return new Uint16Array(bytes.buffer);
  }

  class Field {
    constructor(view) {
      this.view = view;
      this.across = view.across_mm;
      this.nodes = this.across.length;
      this.fineMm = view.column_mm / view.divided;
      this.frames = view.frames.map((f) => ({
        t: f.t, x: f.x, burning: f.burning, gas: f.gas, first: f.first,
        coarse: unpack(f.coarse), fine: f.fine ? unpack(f.fine) : null,
      }));
      this.extent = view.columns * view.column_mm;
      this.end = this.frames[this.frames.length - 1].t;
    }

    find(t) {
      let low = 0;
      let high = this.frames.length - 1;
      while (low < high) {
        const middle = (low + high + 1) >> 1;
        if (this.frames[middle].t <= t) { low = middle; } else { high = middle - 1; }
      }
      return low;
    }

    /* The row of a frame at a place along the sheet, mm: array, two offsets and a weight. */
    row(frame, mm) {
      const view = this.view;
      const fineRows = frame.fine ? frame.fine.length / this.nodes : 0;
      const start = frame.first * view.column_mm;
      let place = mm;
      if (view.closed && frame.fine && place < start) { place += this.extent; }
      if (frame.fine && place >= start && place <= start + fineRows * this.fineMm) {
        const at = Math.min(fineRows - 1, Math.max(0, (place - start) / this.fineMm - 0.5));
        const low = Math.floor(at);
        const high = Math.min(fineRows - 1, low + 1);
        return [frame.fine, low * this.nodes, high * this.nodes, at - low];
      }
      const at = Math.min(view.columns - 1, Math.max(0, mm / view.column_mm - 0.5));
      const low = Math.floor(at);
      const high = Math.min(view.columns - 1, low + 1);
      return [frame.coarse, low * this.nodes, high * this.nodes, at - low];
    }

    node(y) {
      const a = this.across;
      if (y <= a[0]) { return [0, 0]; }
      if (y >= a[this.nodes - 1]) { return [this.nodes - 2, 1]; }
      let low = 0;
      let high = this.nodes - 1;
      while (high - low > 1) {
        const middle = (low + high) >> 1;
        if (a[middle] <= y) { low = middle; } else { high = middle; }
      }
      return [low, (y - a[low]) / (a[low + 1] - a[low])];
    }

    read(frame, x, y) {
      const [rows, low, high, part] = this.row(frame, x + this.view.start_mm);
      const [n, share] = this.node(y);
      const one = rows[low + n] * (1 - share) + rows[low + n + 1] * share;
      const other = rows[high + n] * (1 - share) + rows[high + n + 1] * share;
      return one * (1 - part) + other * part;
    }
  }

  const SHELL = `
<div class="heat" part="heat">
  <p class="state" role="status" aria-live="polite"></p>
  <p class="failed" role="alert" hidden></p>
  <div class="seen" hidden>
    <div class="map-box"><canvas class="map" tabindex="0" role="img"></canvas></div>
    <div class="keys" aria-hidden="true"><span class="ramp"></span><span class="cold"></span><span class="hot"></span>
      <span class="line melt"></span><span class="melt-word"></span><span class="line glow"></span><span class="glow-word"></span>
      <span class="line tint"></span><span class="tint-word"></span><span class="ring"></span><span>cover of the cup</span></div>
    <div class="play-row"><button type="button" class="play" aria-pressed="false">Play</button>
      <input type="range" class="scrub" min="0" max="1000" step="1" value="0" aria-label="Time">
      <output class="clock"></output></div>
    <p class="probe-words" role="status"></p>
    <div class="charts"><figure><canvas class="section" role="img"></canvas><figcaption>Across the seam at the arc</figcaption></figure>
      <figure><canvas class="history" role="img"></canvas><figcaption>Temperature at the probe over time</figcaption></figure></div>
  </div>
</div>`;

  class HeatField extends HTMLElement {
    static get observedAttributes() { return ["src"]; }

    connectedCallback() {
      if (!this.shadowRoot) {
        const root = this.attachShadow({ mode: "open" });
        const link = document.createElement("link");
        link.rel = "stylesheet";
        link.href = this.dataset.css;
        root.append(link);
        const box = document.createElement("div");
        box.innerHTML = SHELL;
        root.append(box.firstElementChild);
        this.part$ = (name) => root.querySelector(name);
        this.wire();
      }
      this.alive = true;
      this.load();
    }

    disconnectedCallback() {
      this.alive = false;
      this.playing = false;
      if (this.waiting) { this.stopAsked(); }
    }

    attributeChangedCallback(name, before, now) {
      if (this.shadowRoot && before !== now) { this.load(); }
    }

    get inches() { return this.dataset.units === "in"; }

    length(mm) { return this.inches ? (mm / 25.4).toFixed(2) + " in" : mm.toFixed(mm < 10 ? 1 : 0) + " mm"; }

    degrees(c) { return this.inches ? Math.round(c * 1.8 + 32) + " °F" : Math.round(c) + " °C"; }

    wire() {
      this.time = 0;
      this.probe = [null, 3];
      const map = this.part$(".map");
      this.part$(".play").addEventListener("click", () => this.toggle());
      this.part$(".scrub").addEventListener("input", (event) => {
        this.playing = false;
        this.showPlaying();
        this.setTime(this.fromShare(event.target.value / 1000), true);
      });
      const point = (event) => {
        if (!this.field) { return; }
        const box = map.getBoundingClientRect();
        const x = (event.clientX - box.left) / box.width * this.field.extent - this.field.view.start_mm;
        const y = this.half - (event.clientY - box.top) / box.height * 2 * this.half;
        this.probe = [x, y];
        this.probed = true;
        this.draw();
      };
      map.addEventListener("pointerdown", (event) => { map.setPointerCapture(event.pointerId); point(event); });
      map.addEventListener("pointermove", (event) => { if (event.buttons || event.pointerType === "mouse") { point(event); } });
      map.addEventListener("keydown", (event) => {
        const steps = { ArrowLeft: [-5, 0], ArrowRight: [5, 0], ArrowUp: [0, 1], ArrowDown: [0, -1] };
        if (event.key === " ") { event.preventDefault(); this.toggle(); return; }
        if (!steps[event.key] || !this.field) { return; }
        event.preventDefault();
        event.stopPropagation();
        const view = this.field.view;
        this.probed = true;
        const limit = (v, low, high) => Math.min(high, Math.max(low, v));
        this.probe = [limit(this.probe[0] + steps[event.key][0], 0, view.length_mm),
          limit(this.probe[1] + steps[event.key][1], -this.half, this.half)];
        this.draw();
      });
      new ResizeObserver(() => this.draw()).observe(this);
      window.matchMedia("(prefers-color-scheme: dark)").addEventListener("change", () => this.draw());
      new MutationObserver(() => this.draw()).observe(document.documentElement, { attributeFilter: ["data-bs-theme"] });
    }

    async load() {
      const src = this.getAttribute("src");
      if (!src || !this.alive) { return; }
      const order = (this.order || 0) + 1;
      this.order = order;
      if (this.waiting) { this.stopAsked(); }
      await this.fetchField(src + "&preview=1", order);
      if (order === this.order && !this.failed && !this.hasAttribute("quick")) {
        await this.fetchField(src, order, true);
      }
    }

    stopAsked() {
      const number = this.waiting;
      this.waiting = "";
      fetch(this.dataset.stop + "?number=" + number, { method: "GET", keepalive: true }).catch(() => {});
    }

    async fetchField(src, order, full) {
      this.failed = false;
      for (;;) {
        let answer;
        let told;
        try {
          answer = await fetch(src, { headers: { Accept: "application/json" } });
          told = await answer.json();
        } catch (error) {
          this.say("No connection. The heat cannot be calculated now.", true);
          this.failed = true;
          return;
        }
        if (order !== this.order || !this.alive) { return; }
        if (answer.status === 202) {
          this.waiting = told.number;
          const words = full ? "Calculating on the full grid" : "Calculating";
          this.part$(".state").textContent = words + ": " + Math.round(100 * told.progress) + " %";
          await new Promise((done) => { window.setTimeout(done, POLL_MS); });
          continue;
        }
        this.waiting = "";
        if (!answer.ok) {
          this.say(told.error, true);
          this.failed = true;
          return;
        }
        this.take(told, full);
        return;
      }
    }

    say(text, failed) {
      const box = this.part$(".failed");
      box.hidden = !failed;
      box.textContent = failed ? text : "";
      this.part$(".state").textContent = failed ? "" : text;
      if (failed) { this.part$(".seen").hidden = true; }
    }

    take(body, full) {
      const share = this.field ? this.toShare(this.time) : null;
      this.body = body;
      this.field = new Field(body.view);
      this.half = Math.min(Math.max(...this.field.across.map(Math.abs)), Math.max(18, 1.6 * body.view.cover_mm));
      if (!this.probed) { this.probe[0] = body.view.length_mm / 2; }
      this.time = share === null ? 0.6 * body.view.stopped_s : this.fromShare(share);
      this.say(full ? "" : "Quick preview on a coarse grid.", false);
      this.part$(".seen").hidden = false;
      this.showKeys();
      this.dispatchEvent(new CustomEvent("heat", { bubbles: true, detail: body }));
      this.setTime(this.time);
    }

    showKeys() {
      const view = this.field.view;
      this.part$(".cold").textContent = this.degrees(20);
      this.part$(".hot").textContent = this.degrees(1450) + " and more";
      this.part$(".melt-word").textContent = "melted";
      this.part$(".glow-word").textContent = "red heat " + this.degrees(view.glow_c);
      this.part$(".tint-word").textContent = "tint " + this.degrees(view.tint_c);
    }

    toggle() {
      this.playing = !this.playing;
      if (this.playing && this.time >= this.field.end - 0.01) { this.time = 0; }
      this.showPlaying();
      this.last = performance.now();
      const step = (now) => {
        if (!this.playing || !this.alive) { return; }
        // Real time during the weld at most 10 s a seam, faster while it cools.
        const view = this.field.view;
        const rate = this.time < view.stopped_s ? Math.max(1, view.stopped_s / 12) : Math.max(2, (this.field.end - view.stopped_s) / 8);
        const next = this.time + (now - this.last) / 1000 * rate;
        this.last = now;
        if (next >= this.field.end) { this.playing = false; this.showPlaying(); }
        this.setTime(Math.min(next, this.field.end), true);
        requestAnimationFrame(step);
      };
      if (this.playing) { requestAnimationFrame(step); }
    }

    showPlaying() {
      const button = this.part$(".play");
      button.textContent = this.playing ? "Pause" : "Play";
      button.setAttribute("aria-pressed", String(this.playing));
    }

    /* Half of the track is the weld, half the cooling. */
    fromShare(share) {
      const stop = this.field.view.stopped_s;
      return share < 0.6 ? share / 0.6 * stop : stop + (share - 0.6) / 0.4 * (this.field.end - stop);
    }

    toShare(t) {
      const stop = this.field.view.stopped_s;
      return t < stop ? 0.6 * t / stop : 0.6 + 0.4 * (t - stop) / Math.max(0.01, this.field.end - stop);
    }

    setTime(t, together) {
      this.time = t;
      if (!this.field) { return; }
      this.part$(".scrub").value = String(Math.round(1000 * this.toShare(t)));
      this.draw();
      if (together && this.dataset.group) {
        document.querySelectorAll('heat-field[data-group="' + this.dataset.group + '"]').forEach((other) => {
          if (other !== this && other.field) { other.setTime(Math.min(t, other.field.end)); }
        });
      }
    }

    draw() {
      if (!this.field || !this.alive) { return; }
      const frame = this.field.frames[this.field.find(this.time)];
      this.drawMap(frame);
      this.drawSection(frame);
      this.drawHistory();
      const after = this.time - this.field.view.stopped_s;
      const clock = this.part$(".clock");
      clock.textContent = this.time.toFixed(1) + " s";
      this.part$(".scrub").setAttribute("aria-valuetext", clock.textContent + (after > 0 ? ", " + after.toFixed(1) + " s after the arc" : ""));
    }

    colour(name) { return window.getComputedStyle(this).getPropertyValue(name).trim(); }

    pen(canvas, high) {
      const wide = canvas.clientWidth;
      const ratio = Math.min(2, window.devicePixelRatio || 1);
      if (!wide) { return null; }
      if (canvas.width !== Math.round(wide * ratio) || canvas.height !== Math.round(high * ratio)) {
        canvas.width = Math.round(wide * ratio);
        canvas.height = Math.round(high * ratio);
      }
      const pen = canvas.getContext("2d");
      pen.setTransform(ratio, 0, 0, ratio, 0, 0);
      pen.clearRect(0, 0, wide, high);
      pen.font = "14px " + this.colour("--face");
      return [pen, wide, high];
    }

    drawMap(frame) {
      const canvas = this.part$(".map");
      const got = this.pen(canvas, canvas.clientHeight || 240);
      if (!got) { return; }
      const [pen, wide, high] = got;
      const field = this.field;
      const view = field.view;
      const w = Math.max(160, Math.min(760, Math.round(wide)));
      const h = Math.max(90, Math.round(high * w / wide));
      if (!this.image || this.image.width !== w || this.image.height !== h) {
        this.sheet = document.createElement("canvas");
        this.sheet.width = w;
        this.sheet.height = h;
        this.image = new ImageData(w, h);
        this.heat = new Float32Array(w * h);
      }
      const heat = this.heat;
      const pixels = new Uint32Array(this.image.data.buffer);
      const nodes = [];
      for (let j = 0; j < h; j += 1) { nodes.push(field.node(this.half - (j + 0.5) / h * 2 * this.half)); }
      for (let i = 0; i < w; i += 1) {
        const [rows, low, high2, part] = field.row(frame, (i + 0.5) / w * field.extent);
        for (let j = 0; j < h; j += 1) {
          const n = nodes[j][0];
          const share = nodes[j][1];
          const one = rows[low + n] * (1 - share) + rows[low + n + 1] * share;
          const other = rows[high2 + n] * (1 - share) + rows[high2 + n + 1] * share;
          heat[j * w + i] = one + (other - one) * part;
        }
      }
      const levels = [[view.tint_c, GREEN], [view.glow_c, CYAN], [view.melts_c, WHITE]];
      for (let j = 0; j < h; j += 1) {
        for (let i = 0; i < w; i += 1) {
          const at = j * w + i;
          const t = heat[at];
          let colour = lut[Math.min(MAX_C, Math.max(0, t | 0))];
          const right = i + 1 < w ? heat[at + 1] : t;
          const below = j + 1 < h ? heat[at + w] : t;
          for (let k = 0; k < 3; k += 1) {
            const level = levels[k][0];
            if ((t >= level) !== (right >= level) || (t >= level) !== (below >= level)) { colour = levels[k][1]; }
          }
          pixels[at] = colour;
        }
      }
      this.sheet.getContext("2d").putImageData(this.image, 0, 0);
      pen.imageSmoothingEnabled = true;
      pen.drawImage(this.sheet, 0, 0, wide, high);
      const px = (mm) => (mm + view.start_mm) / field.extent * wide;
      const py = (mm) => high * (1 - (mm + this.half) / (2 * this.half));
      if (view.bar_from_mm !== null) {
        pen.strokeStyle = "rgba(255,255,255,.45)";
        pen.setLineDash([2, 5]);
        [view.bar_from_mm, -view.bar_from_mm].forEach((mm) => {
          pen.beginPath(); pen.moveTo(0, py(mm)); pen.lineTo(wide, py(mm)); pen.stroke();
        });
        pen.setLineDash([]);
        pen.fillStyle = "#fff";
        pen.fillText("bar", 6, py(view.bar_from_mm) - 5);
        pen.fillText("bar", 6, py(-view.bar_from_mm) + 16);
      }
      if (frame.gas) {
        pen.strokeStyle = "#fff";
        pen.lineWidth = 1.5;
        pen.setLineDash([6, 4]);
        pen.beginPath();
        pen.ellipse(px(frame.x), py(0), view.cover_mm / field.extent * wide, view.cover_mm / (2 * this.half) * high, 0, 0, 7);
        pen.stroke();
        pen.setLineDash([]);
      }
      if (frame.burning) {
        pen.strokeStyle = "#000";
        pen.lineWidth = 2;
        pen.beginPath();
        pen.moveTo(px(frame.x) - 6, py(0)); pen.lineTo(px(frame.x) + 6, py(0));
        pen.moveTo(px(frame.x), py(0) - 6); pen.lineTo(px(frame.x), py(0) + 6);
        pen.stroke();
      }
      const [x, y] = this.probe;
      pen.strokeStyle = "#fff";
      pen.lineWidth = 2;
      pen.beginPath(); pen.arc(px(x), py(y), 7, 0, 7); pen.stroke();
      pen.strokeStyle = "#000";
      pen.lineWidth = 1;
      pen.beginPath(); pen.arc(px(x), py(y), 8.5, 0, 7); pen.stroke();
      const now = field.read(frame, x, y);
      canvas.setAttribute("aria-label", "Map of the sheet from above, " + this.length(view.length_mm) + " of seam. At "
        + this.time.toFixed(1) + " s the arc is at " + this.length(frame.x) + ". Arrow keys move the probe, Space plays.");
      this.now = now;
    }

    drawSection(frame) {
      const canvas = this.part$(".section");
      const got = this.pen(canvas, 150);
      if (!got) { return; }
      const [pen, wide, high] = got;
      const view = this.field.view;
      const left = 46;
      const top = 1900;
      const px = (mm) => left + (mm + this.half) / (2 * this.half) * (wide - left - 6);
      const py = (c) => 8 + (high - 30) * (1 - Math.min(top, c) / top);
      this.grid(pen, wide, py, left, [view.glow_c, view.melts_c]);
      pen.fillStyle = this.colour("--ink-2");
      pen.textAlign = "center";
      [-1, -0.5, 0, 0.5, 1].forEach((s) => pen.fillText(this.length(Math.abs(s * this.half)), Math.min(wide - 26, Math.max(left + 14, px(s * this.half))), high - 6));
      pen.textAlign = "left";
      pen.strokeStyle = this.colour("--act");
      pen.lineWidth = 2;
      pen.beginPath();
      for (let i = 0; i <= 120; i += 1) {
        const mm = -this.half + i / 60 * this.half;
        const c = this.field.read(frame, frame.x, mm);
        if (i) { pen.lineTo(px(mm), py(c)); } else { pen.moveTo(px(mm), py(c)); }
      }
      pen.stroke();
      canvas.setAttribute("aria-label", "Section across the seam at the arc: " + this.degrees(this.field.read(frame, frame.x, 0)) + " on the seam.");
    }

    grid(pen, wide, py, left, levels) {
      pen.strokeStyle = this.colour("--line");
      pen.lineWidth = 1;
      pen.fillStyle = this.colour("--ink-2");
      levels.forEach((c) => {
        pen.beginPath(); pen.moveTo(left, py(c)); pen.lineTo(wide, py(c)); pen.stroke();
        pen.fillText(this.degrees(c).split(" ")[0], 4, py(c) + 5);
      });
    }

    drawHistory() {
      const canvas = this.part$(".history");
      const got = this.pen(canvas, 150);
      if (!got) { return; }
      const [pen, wide, high] = got;
      const field = this.field;
      const [x, y] = this.probe;
      const values = field.frames.map((frame) => field.read(frame, x, y));
      const most = Math.max(...values);
      let above = 0;
      for (let i = 1; i < values.length; i += 1) {
        if (values[i] >= 600) { above += field.frames[i].t - field.frames[i - 1].t; }
      }
      const left = 46;
      const top = Math.max(500, most * 1.1);
      const px = (t) => left + this.toShare(t) * (wide - left - 6);
      const py = (c) => 8 + (high - 30) * (1 - c / top);
      this.grid(pen, wide, py, left, [290, 600].filter((c) => c < top));
      pen.strokeStyle = this.colour("--act");
      pen.lineWidth = 2;
      pen.beginPath();
      values.forEach((c, i) => { if (i) { pen.lineTo(px(field.frames[i].t), py(c)); } else { pen.moveTo(px(field.frames[i].t), py(c)); } });
      pen.stroke();
      pen.strokeStyle = this.colour("--ink");
      pen.beginPath(); pen.moveTo(px(this.time), 4); pen.lineTo(px(this.time), high - 22); pen.stroke();
      pen.fillStyle = this.colour("--ink-2");
      pen.fillText("start", left, high - 6);
      pen.textAlign = "center";
      pen.fillText("arc out", px(field.view.stopped_s), high - 6);
      pen.textAlign = "right";
      pen.fillText(Math.round(field.end) + " s", wide - 4, high - 6);
      pen.textAlign = "left";
      const words = "Probe at " + this.length(Math.max(0, x)) + " along the seam, " + this.length(Math.abs(y)) + " beside it: "
        + this.degrees(this.now) + " now, " + this.degrees(most) + " at most, " + above.toFixed(1) + " s above " + this.degrees(600) + ".";
      this.part$(".probe-words").textContent = words;
      canvas.setAttribute("aria-label", words);
    }
  }

  window.customElements.define("heat-field", HeatField);

  /* The page around it: figures in words, settings to be tried, and proposals. */
  document.addEventListener("heat", (event) => {
    const panel = event.target.closest("[data-heat-panel]");
    const list = panel && panel.querySelector("[data-heat-lines]");
    if (!list) { return; }
    const units = event.target.dataset.units === "in" ? "in" : "mm";
    list.replaceChildren();
    event.detail.lines.forEach((line) => {
      const term = document.createElement("dt");
      term.textContent = line.label;
      const words = document.createElement("dd");
      words.textContent = line[units];
      if (line.level) { words.className = "caution-line caution-line-" + line.level; }
      list.append(term, words);
    });
    const differs = panel.querySelector("[data-heat-differences]");
    if (differs) {
      differs.replaceChildren();
      differs.hidden = !event.detail.differences.length;
      event.detail.differences.forEach((d) => {
        const item = document.createElement("li");
        const name = document.createElement("b");
        name.textContent = d.label + ": ";
        item.append(name, d[units] + " " + d.why);
        differs.append(item);
      });
    }
  });

  document.addEventListener("input", (event) => {
    const form = event.target.closest("form[data-heat-try]");
    if (!form) { return; }
    const shown = form.querySelector('output[for="' + event.target.id + '"]');
    if (shown) { shown.textContent = shown.dataset.none && event.target.value === "0" ? shown.dataset.none : event.target.value + " " + shown.dataset.unit; }
    window.clearTimeout(form.timer);
    form.timer = window.setTimeout(() => {
      const field = form.closest("[data-heat-panel]").querySelector("heat-field");
      const fields = new URLSearchParams(new FormData(form));
      const address = new URL(field.dataset.base, window.location.href);
      fields.forEach((value, key) => { if (value !== "") { address.searchParams.set(key, value); } });
      field.setAttribute("src", address.pathname + address.search);
    }, 20);
  });

  document.addEventListener("click", async (event) => {
    const link = event.target.closest("a[data-heat-goal]");
    if (!link) { return; }
    event.preventDefault();
    const box = link.closest("[data-heat-panel]").querySelector("[data-heat-proposal]");
    box.textContent = "Trying changes…";
    for (;;) {
      let answer;
      let told;
      try {
        answer = await fetch(link.dataset.heatGoal, { headers: { Accept: "application/json" } });
        told = await answer.json();
      } catch (error) {
        box.textContent = "No connection. Nothing was changed.";
        return;
      }
      if (answer.status !== 202) {
        box.replaceChildren();
        const words = document.createElement("p");
        words.textContent = told.words || told.error;
        box.append(words);
        if (told.address) {
          const use = document.createElement("a");
          use.className = "btn btn-act";
          use.href = told.address;
          use.textContent = "Use this";
          box.append(use);
        }
        return;
      }
      box.textContent = "Trying changes: " + Math.round(100 * told.progress) + " %";
      await new Promise((done) => { window.setTimeout(done, 150); });
    }
  });
})();
