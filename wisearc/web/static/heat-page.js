/* The page around a field of heat: results in words, settings to be tried, and proposals. */
(() => {
  document.addEventListener("heat", (event) => {
    const panel = event.target.closest("[data-heat-panel]");
    const list = panel && panel.querySelector("[data-heat-lines]");
    if (!list) { return; }
    const units = event.target.dataset.units === "in" ? "inch" : "mm";
    list.replaceChildren();
    event.detail.lines.forEach((line) => {
      const term = document.createElement("dt");
      term.textContent = line.label;
      const words = document.createElement("dd");
      if (line.level) {
        words.className = "caution-line caution-line-" + line.level;
        const mark = document.createElement("b");
        mark.textContent = line.mark;
        words.append(mark, " ");
      }
      words.append(line.words[units]);
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
        item.append(name, d.words[units]);
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
