/* The data of a calculated field: unpacked temperatures, read at a place and a time. */
(() => {
  const WELD_PART = 0.6;

  function unpack(text) {
    const raw = atob(text);
    const bytes = new Uint8Array(raw.length);
    for (let i = 0; i < raw.length; i += 1) { bytes[i] = raw.charCodeAt(i); }
    return new Uint16Array(bytes.buffer);
  }

  class HeatData {
    constructor(view) {
      this.view = view;
      this.across = view.across_mm;
      this.nodes = this.across.length;
      this.narrowMm = view.column_mm / view.divided;
      this.frames = view.frames.map((f) => ({
        t: f.t, x: f.x, burning: f.burning, gas: f.gas, first: f.first,
        wide: unpack(f.wide), narrow: f.narrow ? unpack(f.narrow) : null,
      }));
      this.peak = unpack(view.peak);
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
      const narrowRows = frame.narrow ? frame.narrow.length / this.nodes : 0;
      const start = frame.first * view.column_mm;
      let place = mm;
      if (view.closed && frame.narrow && place < start) { place += this.extent; }
      if (frame.narrow && place >= start && place <= start + narrowRows * this.narrowMm) {
        const at = Math.min(narrowRows - 1, Math.max(0, (place - start) / this.narrowMm - 0.5));
        const low = Math.floor(at);
        const high = Math.min(narrowRows - 1, low + 1);
        return [frame.narrow, low * this.nodes, high * this.nodes, at - low];
      }
      const at = Math.min(view.columns - 1, Math.max(0, mm / view.column_mm - 0.5));
      const low = Math.floor(at);
      const high = Math.min(view.columns - 1, low + 1);
      return [frame.wide, low * this.nodes, high * this.nodes, at - low];
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

    /* The highest temperature at a place, °C. */
    readPeak(x, y) {
      return this.read({ wide: this.peak, narrow: null, first: 0 }, x, y);
    }

    /* How long a place is above a temperature, s, from its values in all pictures. */
    countAbove(values, limit) {
      let seconds = 0;
      for (let i = 1; i < values.length; i += 1) {
        const [before, now] = [values[i - 1], values[i]];
        const high = Math.max(before, now);
        const low = Math.min(before, now);
        const part = low >= limit ? 1 : high < limit ? 0 : (high - limit) / (high - low);
        seconds += part * (this.frames[i].t - this.frames[i - 1].t);
      }
      return seconds;
    }

    /* The weld has this part of a time axis, and the cooling the rest. */
    fromShare(share) {
      const stop = this.view.stopped_s;
      return share < WELD_PART ? share / WELD_PART * stop : stop + (share - WELD_PART) / (1 - WELD_PART) * (this.end - stop);
    }

    toShare(t) {
      const stop = this.view.stopped_s;
      return t < stop ? WELD_PART * t / stop : WELD_PART + (1 - WELD_PART) * (t - stop) / Math.max(0.01, this.end - stop);
    }
  }

  window.HeatData = HeatData;
})();
