/* The sheet of a virtual seam on a canvas, true to scale: tints, bead with its ripples, pool, torch and rod. */
window.arcSheet = (canvas, tints) => {
  const MARGIN_MM = 4;
  const SCALE_BAR_MM = 10;
  const POOL_INNER = "#ffd9a0";
  const reduced = window.matchMedia("(prefers-reduced-motion: reduce)");
  const layer = document.createElement("canvas");
  const tinted = document.createElement("canvas");
  const view = {
    piece: null, pool: null, left: [], right: [], deposit: [], face: [], root: [], ripples: [], holes: [], marks: [],
    showRoot: false, ghost: null, planned: null, torch: null, rodUntil: 0, arc: false, gas: false,
  };
  let scale = 5;
  let originX = 0;
  let middle = 0;
  let inks = [];
  let stale = true;

  function colour(name) { return window.getComputedStyle(canvas).getPropertyValue(name).trim(); }

  function parse(ink) { return [1, 3, 5].map((at) => parseInt(ink.slice(at, at + 2), 16)); }

  function reset(piece) {
    const n = piece.columns;
    const blank = "0".repeat(piece.across_mm.length);
    Object.assign(view, {
      piece, pool: null, left: new Float32Array(n), right: new Float32Array(n), deposit: new Float32Array(n),
      face: new Array(n).fill(blank), root: new Array(n).fill(blank), ripples: [], holes: [], marks: [], ghost: null, planned: null,
      arc: false, gas: false,
    });
    inks = tints.map(parse);
    layer.width = n;
    layer.height = piece.across_mm.length;
    layer.getContext("2d").clearRect(0, 0, layer.width, layer.height);
    fit();
    stale = true;
  }

  function fit() {
    const ratio = Math.min(2, window.devicePixelRatio || 1);
    const wide = canvas.clientWidth;
    const high = canvas.clientHeight;
    if (!wide || !view.piece) { return; }
    if (canvas.width !== Math.round(wide * ratio) || canvas.height !== Math.round(high * ratio)) {
      canvas.width = Math.round(wide * ratio);
      canvas.height = Math.round(high * ratio);
      stale = true;
    }
    canvas.getContext("2d").setTransform(ratio, 0, 0, ratio, 0, 0);
    scale = Math.min((wide - 8) / (view.piece.length_mm + 2 * MARGIN_MM), 16);
    originX = (wide - scale * view.piece.length_mm) / 2;
    middle = high * 0.5;
  }

  /* Take over what changed. */
  function take(frame) {
    const piece = view.piece;
    for (const [i, left, right, deposit] of frame.bead || []) {
      view.left[i] = left / 100;
      view.right[i] = right / 100;
      view.deposit[i] = deposit / 100;
    }
    const pen = layer.getContext("2d");
    for (const [i, face, root] of frame.tint || []) {
      view.face[i] = face;
      view.root[i] = root || view.root[i];
      paintColumn(pen, i);
      stale = true;
    }
    for (const [x, melted] of frame.dabs || []) { view.ripples.push([x, melted]); }
    if (frame.holes) { view.holes = frame.holes; }
    view.pool = frame.pool && frame.pool.length ? { at: frame.at || 0, left: frame.pool[0], right: frame.pool[1] } : null;
    view.arc = Boolean(frame.arc);
    view.gas = Boolean(frame.gas);
    if (!piece.dab_pitch_mm && view.pool) { noteRipple(frame); }
  }

  /* Without rod a ripple is left about every beat of the pulse, or every millimetre. */
  function noteRipple(frame) {
    const at = view.piece.first_mm + (frame.at || 0) * view.piece.column_mm;
    const pitch = view.piece.slow_pulse && view.piece.rate_pps ? view.piece.travel_mm_s / view.piece.rate_pps : 1.2;
    const last = view.ripples.length ? view.ripples[view.ripples.length - 1][0] : -1e9;
    if (Math.abs(at - last) >= pitch) { view.ripples.push([at, true]); }
  }

  function paintColumn(pen, i) {
    const digits = view.showRoot ? view.root[i] : view.face[i];
    const count = view.piece.across_mm.length;
    const pixels = pen.createImageData(1, count);
    for (let k = 0; k < count; k += 1) {
      const rank = digits ? Math.min(inks.length - 1, digits.charCodeAt(k) - 48) : 0;
      const at = 4 * (count - 1 - k);
      const [r, g, b] = inks[rank];
      pixels.data[at] = r;
      pixels.data[at + 1] = g;
      pixels.data[at + 2] = b;
      pixels.data[at + 3] = rank > 0 ? 235 : 0;
    }
    pen.putImageData(pixels, i, 0);
  }

  function repaint() {
    const pen = layer.getContext("2d");
    for (let i = 0; i < view.piece.columns; i += 1) { paintColumn(pen, i); }
    stale = true;
  }

  const px = (mm) => originX + mm * scale;
  const py = (mm) => middle - mm * scale;
  const columnX = (i) => px(view.piece.first_mm + i * view.piece.column_mm);

  function draw(time) {
    if (!view.piece || !canvas.clientWidth) { return; }
    fit();
    const pen = canvas.getContext("2d");
    const wide = canvas.clientWidth;
    const high = canvas.clientHeight;
    pen.clearRect(0, 0, wide, high);
    drawMetal(pen);
    drawTint(pen);
    drawBead(pen);
    if (view.planned) { drawPlanned(pen); }
    drawPool(pen);
    drawMarks(pen, high);
    if (view.ghost !== null) { drawGhost(pen, high); }
    if (view.torch) { drawTorch(pen, time); }
  }

  function drawMetal(pen) {
    const half = Math.min(canvas.clientHeight * 0.36, 24 * scale);
    pen.fillStyle = colour("--steel");
    pen.fillRect(px(0), middle - half, scale * view.piece.length_mm, half);
    pen.fillStyle = colour("--steel-2");
    pen.fillRect(px(0), middle, scale * view.piece.length_mm, half);
    pen.fillStyle = colour("--surface");
    pen.fillRect(px(0), middle - 1, scale * view.piece.length_mm, 2);
    view.half = half;
  }

  /* The tints change a few times a second only, so they are stretched to the sheet once for each change. */
  function drawTint(screen) {
    if (stale) { stretchTint(); }
    screen.drawImage(tinted, 0, 0, canvas.clientWidth, canvas.clientHeight);
  }

  function stretchTint() {
    stale = false;
    const across = view.piece.across_mm;
    tinted.width = canvas.clientWidth;
    tinted.height = canvas.clientHeight;
    const pen = tinted.getContext("2d");
    pen.beginPath();
    pen.rect(px(0), middle - view.half, scale * view.piece.length_mm, 2 * view.half);
    pen.clip();
    pen.imageSmoothingEnabled = true;
    // The nodes near the seam are evenly spaced: the picture is stretched by strips between nodes.
    const count = across.length;
    for (let k = 0; k < count; k += 1) {
      const low = k ? (across[k - 1] + across[k]) / 2 : across[0];
      const high = k < count - 1 ? (across[k] + across[k + 1]) / 2 : across[count - 1];
      if (Math.abs(across[k]) * scale > view.half + 20) { continue; }
      // Whole pixels, so that no line shows between two strips.
      const top = Math.round(py(high));
      pen.drawImage(layer, 0, count - 1 - k, layer.width, 1, columnX(-0.5), top, layer.width * view.piece.column_mm * scale, Math.round(py(low)) - top);
    }
  }

  function beadRuns() {
    const runs = [];
    let run = null;
    for (let i = 0; i < view.piece.columns; i += 1) {
      if (view.right[i] > view.left[i]) {
        run = run || [];
        run.push(i);
      } else if (run) {
        runs.push(run);
        run = null;
      }
    }
    if (run) { runs.push(run); }
    return runs;
  }

  function drawBead(pen) {
    for (const run of beadRuns()) {
      pen.beginPath();
      run.forEach((i, n) => { pen[n ? "lineTo" : "moveTo"](columnX(i), py(view.right[i])); });
      for (let n = run.length - 1; n >= 0; n -= 1) { pen.lineTo(columnX(run[n]), py(view.left[run[n]])); }
      pen.closePath();
      pen.fillStyle = colour("--practice-bead");
      pen.fill();
      pen.strokeStyle = colour("--scale-grey");
      pen.lineWidth = 1;
      pen.stroke();
    }
    pen.strokeStyle = colour("--scale-grey");
    pen.lineWidth = 1.2;
    for (const [x, melted] of view.ripples) {
      const i = Math.round((x - view.piece.first_mm) / view.piece.column_mm);
      const left = view.left[i];
      const right = view.right[i];
      if (!melted) {
        pen.fillStyle = colour("--rod");
        pen.beginPath();
        pen.arc(px(x), py(0), 0.8 * scale, 0, 2 * Math.PI);
        pen.fill();
      } else if (right > left) {
        pen.beginPath();
        pen.moveTo(px(x) - 0.35 * scale, py(right * 0.92));
        pen.quadraticCurveTo(px(x) + 0.75 * scale, py((left + right) / 2), px(x) - 0.35 * scale, py(left * 0.92));
        pen.stroke();
      }
    }
    pen.fillStyle = colour("--ink");
    for (const x of view.holes) {
      pen.beginPath();
      pen.ellipse(px(x), middle, 1.3 * scale, 1.1 * scale, 0, 0, 2 * Math.PI);
      pen.fill();
    }
  }

  /* The bead of a weld without a slip, as a dashed outline over one's own. */
  function drawPlanned(pen) {
    pen.strokeStyle = colour("--plum");
    pen.lineWidth = 1.5;
    pen.setLineDash([6, 4]);
    for (const side of [1, 2]) {
      pen.beginPath();
      view.planned.forEach((row, n) => { pen[n ? "lineTo" : "moveTo"](columnX(row[0]), py(row[side] / 100)); });
      pen.stroke();
    }
    pen.setLineDash([]);
  }

  function drawPool(pen) {
    if (reduced.matches && view.piece.slow_pulse) { drawStillPool(pen); return; }
    if (!view.pool || !view.pool.left.length) { return; }
    const { at, left, right } = view.pool;
    pen.beginPath();
    const n = left.length;
    pen.moveTo(columnX(at - 0.5), py((left[0] + right[0]) / 200));
    for (let k = 0; k < n; k += 1) { pen.lineTo(columnX(at + k), py(right[k] / 100)); }
    pen.lineTo(columnX(at + n - 0.5), py((left[n - 1] + right[n - 1]) / 200));
    for (let k = n - 1; k >= 0; k -= 1) { pen.lineTo(columnX(at + k), py(left[k] / 100)); }
    pen.closePath();
    pen.fillStyle = colour("--pool");
    pen.fill();
    if (view.arc && view.torch) {
      const glow = pen.createRadialGradient(px(view.torch.x), py(view.torch.y), 0, px(view.torch.x), py(view.torch.y), 1.6 * scale);
      glow.addColorStop(0, POOL_INNER);
      glow.addColorStop(1, "rgba(255,217,160,0)");
      pen.save();
      pen.clip();
      pen.fillStyle = glow;
      pen.fillRect(px(view.torch.x) - 2 * scale, py(view.torch.y) - 2 * scale, 4 * scale, 4 * scale);
      pen.restore();
    }
  }

  /* With reduced motion a pulsed pool does not breathe: it has the planned width while the arc burns. */
  function drawStillPool(pen) {
    if (!view.arc || !view.torch) { return; }
    pen.fillStyle = colour("--pool");
    pen.beginPath();
    pen.arc(px(view.torch.x), py(view.torch.y), view.piece.target_mm * scale / 2, 0, 2 * Math.PI);
    pen.fill();
  }

  function text(pen, words, x, y, name, align) {
    pen.font = "15px " + colour("--face");
    pen.fillStyle = colour(name);
    pen.textAlign = align || "left";
    pen.fillText(words, x, y);
  }

  function drawMarks(pen, high) {
    const piece = view.piece;
    const foot = high - 12;
    pen.strokeStyle = colour("--ink-2");
    pen.lineWidth = 1;
    pen.beginPath();
    pen.moveTo(px(0), foot - 4);
    pen.lineTo(px(0), foot + 4);
    pen.moveTo(px(0), foot);
    pen.lineTo(px(SCALE_BAR_MM), foot);
    pen.moveTo(px(SCALE_BAR_MM), foot - 4);
    pen.lineTo(px(SCALE_BAR_MM), foot + 4);
    pen.stroke();
    text(pen, view.inches ? "0.39 in" : "10 mm", px(SCALE_BAR_MM) + 6, foot + 5, "--ink-2");
    const ends = [[piece.start_mm, "start"], [piece.end_mm, "end"]];
    if (piece.stop_mm !== null && piece.stop_mm !== undefined) { ends.push([piece.stop_mm, "stop, then restart"]); }
    (piece.tack_marks_mm || []).forEach((x, n) => ends.push([x, String(n + 1)]));
    pen.setLineDash([3, 4]);
    for (const [x, words] of ends) {
      pen.beginPath();
      pen.moveTo(px(x), middle - view.half);
      pen.lineTo(px(x), middle - view.half + 14);
      pen.moveTo(px(x), middle + view.half - 14);
      pen.lineTo(px(x), middle + view.half);
      pen.stroke();
      const align = words === "end" ? "right" : words === "start" ? "left" : "center";
      text(pen, words, px(x), middle - view.half - 5, "--ink-2", align);
    }
    pen.setLineDash([]);
    let row = 0;
    for (const mark of view.marks) {
      const x = Math.min(canvas.clientWidth - 8, Math.max(8, px(mark.at_mm)));
      // On the sheet: below it is the scale.
      const y = middle + view.half - 25 + 17 * row;
      pen.strokeStyle = colour("--plum");
      pen.beginPath();
      pen.moveTo(px(mark.at_mm), middle + 6);
      pen.lineTo(px(mark.at_mm), y - 12);
      pen.stroke();
      const align = x > canvas.clientWidth * 0.6 ? "right" : "left";
      pen.font = "15px " + colour("--face");
      const wide = pen.measureText(mark.text).width;
      pen.fillStyle = colour("--surface");
      pen.fillRect(x - (align === "right" ? wide : 0) - 3, y - 13, wide + 6, 17);
      text(pen, mark.text, x, y, "--plum", align);
      row += 1;
    }
  }

  function drawGhost(pen, high) {
    const x = px(view.ghost);
    pen.strokeStyle = colour("--plum");
    pen.lineWidth = 2.5;
    pen.beginPath();
    pen.moveTo(x, middle - view.half * 0.75);
    pen.lineTo(x, middle + view.half * 0.75);
    pen.stroke();
    const near = x > canvas.clientWidth * 0.55;
    text(pen, "the plan is here", x + (near ? -7 : 7), middle - view.half * 0.75 + 10, "--plum", near ? "right" : "left");
  }

  function drawTorch(pen, time) {
    const x = px(view.torch.x);
    const y = py(view.torch.y);
    pen.strokeStyle = colour(view.gas ? "--gas" : "--ink-2");
    pen.lineWidth = 1.5;
    pen.setLineDash([3, 5]);
    pen.beginPath();
    pen.arc(x, y, view.piece.cover_mm * scale, 0, 2 * Math.PI);
    pen.stroke();
    pen.setLineDash([]);
    pen.fillStyle = colour("--ink");
    pen.globalAlpha = 0.75;
    pen.beginPath();
    pen.moveTo(x, y - 3);
    pen.lineTo(x - 6, y - 44);
    pen.lineTo(x + 6, y - 44);
    pen.closePath();
    pen.fill();
    pen.globalAlpha = 1;
    if (view.hasRod) {
      const near = time < view.rodUntil;
      const gap = near && !reduced.matches ? 1.2 : near ? 1.6 : 4;
      pen.strokeStyle = colour("--rod");
      pen.lineWidth = Math.max(2, 0.8 * scale);
      pen.lineCap = "round";
      pen.beginPath();
      pen.moveTo(x + gap * scale, y + 0.2 * scale);
      pen.lineTo(x + (gap + 9) * scale, y + 3.4 * scale);
      pen.stroke();
      pen.lineCap = "butt";
    }
  }

  view.reset = reset;
  view.take = take;
  view.draw = draw;
  view.repaint = repaint;
  view.toMm = (event) => {
    const box = canvas.getBoundingClientRect();
    return { x: (event.clientX - box.left - originX) / scale, y: -(event.clientY - box.top - middle) / scale };
  };
  return view;
};

/* The strip of travel and current along the seam against the plan. */
window.arcStrip = (canvas) => {
  const rows = { travel: [], current: [] };
  let piece = null;

  function colour(name) { return window.getComputedStyle(canvas).getPropertyValue(name).trim(); }

  function draw() {
    const wide = canvas.clientWidth;
    if (!wide || !piece) { return; }
    const high = canvas.clientHeight;
    const ratio = Math.min(2, window.devicePixelRatio || 1);
    if (canvas.width !== Math.round(wide * ratio) || canvas.height !== Math.round(high * ratio)) {
      canvas.width = Math.round(wide * ratio);
      canvas.height = Math.round(high * ratio);
    }
    const pen = canvas.getContext("2d");
    pen.setTransform(ratio, 0, 0, ratio, 0, 0);
    pen.clearRect(0, 0, wide, high);
    lane(pen, rows.travel, piece.travel_mm_s, 0, high / 2 - 8, wide, "--violet", "Travel speed " + piece.travel_text);
    lane(pen, rows.current, piece.peak_a, high / 2 + 8, high / 2 - 8, wide, "--pool", "Current " + Math.round(piece.peak_a) + " A");
  }

  function lane(pen, values, target, top, high, wide, name, words) {
    const y = (value) => top + high - (high - 20) * Math.min(1, value / (2 * target));
    pen.fillStyle = colour("--good");
    pen.globalAlpha = 0.16;
    pen.fillRect(0, y(1.1 * target), wide, y(0.9 * target) - y(1.1 * target));
    pen.globalAlpha = 1;
    pen.font = "15px " + colour("--face");
    pen.fillStyle = colour("--ink-2");
    pen.textAlign = "left";
    pen.fillText(words, 2, top + 13);
    pen.strokeStyle = colour(name);
    pen.lineWidth = 2.5;
    pen.beginPath();
    values.forEach(([x, value], n) => {
      pen[n ? "lineTo" : "moveTo"](wide * Math.max(0, Math.min(1, x / piece.length_mm)), y(value));
    });
    pen.stroke();
  }

  return {
    reset: (of) => { piece = of; rows.travel = []; rows.current = []; draw(); },
    add: (x, speed, current) => { rows.travel.push([x, speed]); rows.current.push([x, current]); },
    set: (travel, current) => { rows.travel = travel; rows.current = current; draw(); },
    draw,
  };
};
