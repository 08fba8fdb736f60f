/* The trace of a power source: the last seconds of its current with the ranges. The memory does
   not grow with the time. */
window.arcTrace = (canvas, data) => {
  const SHOWN_S = 10;
  const ROOM = 4096;
  const GAP_S = 0.5;
  const time = new Float64Array(ROOM);
  const current = new Float32Array(ROOM);
  let count = 0;
  let drawn = false;

  function colour(name) { return window.getComputedStyle(canvas).getPropertyValue(name).trim(); }

  function draw() {
    drawn = false;
    const ratio = window.devicePixelRatio || 1;
    const wide = canvas.clientWidth;
    const high = 120;
    if (!wide) { return; }
    if (canvas.width !== Math.round(wide * ratio)) {
      canvas.width = Math.round(wide * ratio);
      canvas.height = Math.round(high * ratio);
      canvas.style.height = high + "px";
    }
    const pen = canvas.getContext("2d");
    pen.setTransform(ratio, 0, 0, ratio, 0, 0);
    pen.clearRect(0, 0, wide, high);
    const end = count ? time[(count - 1) % ROOM] : SHOWN_S;
    let most = data.most * 1.25;
    const first = Math.max(0, count - ROOM);
    for (let i = first; i < count; i += 1) {
      if (time[i % ROOM] >= end - SHOWN_S) { most = Math.max(most, current[i % ROOM] * 1.05); }
    }
    const x = (t) => wide * (1 - (end - t) / SHOWN_S);
    const y = (a) => high - 4 - (high - 22) * a / most;
    pen.font = "15px " + colour("--face");
    data.held.forEach((band) => {
      pen.fillStyle = colour("--good");
      pen.globalAlpha = 0.18;
      pen.fillRect(0, y(band.high === null ? most : band.high), wide, y(band.low || 0) - y(band.high === null ? most : band.high));
      pen.globalAlpha = 1;
      pen.fillStyle = colour("--ink-2");
      pen.fillText(band.what + ", allowed " + Math.round(band.low) + " to " + Math.round(band.high) + " A", 6, y(band.high) - 5);
    });
    // For a steady arc its range shows it.
    if (data.background) {
      pen.strokeStyle = colour("--ink-2");
      pen.lineWidth = 1.5;
      pen.setLineDash([6, 5]);
      pen.beginPath();
      pen.moveTo(0, y(data.mean));
      pen.lineTo(wide, y(data.mean));
      pen.stroke();
      pen.setLineDash([]);
    }
    pen.strokeStyle = colour("--pool");
    pen.lineWidth = 2;
    pen.beginPath();
    let open = false;
    let before = 0;
    for (let i = first; i < count; i += 1) {
      const t = time[i % ROOM];
      if (t < end - SHOWN_S) { continue; }
      // Nothing is drawn over a gap.
      open = open && t - before < GAP_S;
      before = t;
      if (open) { pen.lineTo(x(t), y(current[i % ROOM])); } else { pen.moveTo(x(t), y(current[i % ROOM])); }
      open = true;
    }
    pen.stroke();
    if (data.background) {
      // Over the trace, with a rim that keeps it readable.
      const words = "planned mean " + Math.round(data.mean) + " A";
      pen.textAlign = "right";
      pen.strokeStyle = colour("--surface");
      pen.lineWidth = 6;
      pen.lineJoin = "round";
      pen.strokeText(words, wide - 6, y(data.mean) - 5);
      pen.fillStyle = colour("--ink-2");
      pen.fillText(words, wide - 6, y(data.mean) - 5);
      pen.textAlign = "left";
    }
  }

  return {
    last() { return count ? time[(count - 1) % ROOM] : -1; },
    add(rows) {
      rows.forEach((row) => {
        if (count && row[0] <= time[(count - 1) % ROOM]) { return; }
        time[count % ROOM] = row[0];
        current[count % ROOM] = row[1];
        count += 1;
      });
      canvas.hidden = false;
      if (!drawn) {
        drawn = true;
        window.requestAnimationFrame(draw);
      }
    },
    count() { return count; },
  };
};
