/* The drawings of a field on canvases: map, section across the seam, and history of the probe. */
(() => {
  const STOPS = [
    [20, [27, 31, 38]], [290, [58, 47, 86]], [525, [126, 52, 92]], [800, [186, 84, 52]],
    [1100, [226, 150, 60]], [1450, [246, 214, 120]], [2200, [255, 253, 240]],
  ];
  const HOTTEST_C = STOPS[STOPS.length - 1][0];
  const MAX_C = 2400;
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

  class HeatDrawer {
    /* Drawings inside a root, with the units and the colours of its host. */
    constructor(host, root) {
      this.host = host;
      this.root = root;
    }

    get inches() { return this.host.dataset.units === "in"; }

    length(mm) { return this.inches ? (mm / 25.4).toFixed(2) + " in" : mm.toFixed(mm < 10 ? 1 : 0) + " mm"; }

    degrees(c) { return this.inches ? Math.round(c * 1.8 + 32) + " °F" : Math.round(c) + " °C"; }

    part$(name) { return this.root.querySelector(name); }

    showKeys(view) {
      this.part$(".cold").textContent = this.degrees(STOPS[0][0]);
      this.part$(".hot").textContent = this.degrees(HOTTEST_C) + " and more";
      this.part$(".melt-word").textContent = "melted";
      this.part$(".glow-word").textContent = "red heat " + this.degrees(view.glow_c);
      this.part$(".tacks-key").hidden = !view.tacks_mm.length;
      this.part$(".tint-word").textContent = "tint " + this.degrees(view.tint_c);
    }

    /* Draw a field at a time, s, for a half width and a probe in mm. */
    draw(field, time, half, probe) {
      Object.assign(this, { field, time, half, probe });
      const frame = field.frames[field.find(time)];
      this.drawMap(frame);
      this.drawSection(frame);
      this.drawHistory(frame);
    }

    colour(name) { return window.getComputedStyle(this.host).getPropertyValue(name).trim(); }

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
      pen.strokeStyle = "#fff";
      pen.lineWidth = 1.5;
      view.tacks_mm.forEach(([from, to]) => {
        pen.beginPath();
        pen.ellipse(px((from + to) / 2), py(0), Math.max(3, (px(to) - px(from)) / 2), 4, 0, 0, 7);
        pen.stroke();
      });
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
      canvas.setAttribute("aria-label", "Map of the sheet from above, " + this.length(view.length_mm) + " of seam. At "
        + this.time.toFixed(1) + " s the arc is at " + this.length(frame.x) + ". Arrow keys move the probe, Space plays.");
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

    drawHistory(frame) {
      const canvas = this.part$(".history");
      const got = this.pen(canvas, 150);
      if (!got) { return; }
      const [pen, wide, high] = got;
      const field = this.field;
      const [x, y] = this.probe;
      const view = field.view;
      const values = field.frames.map((picture) => field.read(picture, x, y));
      const most = Math.max(field.readPeak(x, y), ...values);
      const left = 46;
      const top = Math.max(500, most * 1.1);
      const px = (t) => left + this.field.toShare(t) * (wide - left - 6);
      const py = (c) => 8 + (high - 30) * (1 - c / top);
      this.grid(pen, wide, py, left, [view.straw_c, view.sensitising_c].filter((c) => c < top));
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
      pen.fillText("arc out", px(view.stopped_s), high - 6);
      pen.textAlign = "right";
      pen.fillText(Math.round(field.end) + " s", wide - 4, high - 6);
      pen.textAlign = "left";
      const words = "Probe at " + this.length(Math.max(0, x)) + " along the seam, " + this.length(Math.abs(y)) + " beside it: "
        + this.degrees(field.read(frame, x, y)) + " now, " + this.degrees(most) + " at most, about "
        + field.countAbove(values, view.sensitising_c).toFixed(1) + " s above " + this.degrees(view.sensitising_c) + ".";
      this.part$(".probe-words").textContent = words;
      canvas.setAttribute("aria-label", words);
    }
  }

  window.HeatDrawer = HeatDrawer;
})();
