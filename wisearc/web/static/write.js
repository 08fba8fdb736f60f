/* The record of a run: choices survive a reload, a rust test has its clock, a log import shows
   its progress. */
(() => {
  const form = document.querySelector("[data-write-form]");
  const reading = document.querySelector("[data-reading]");
  if (form) {
    const name = "write:" + form.dataset.writeForm;
    const fields = () => Array.from(form.elements).filter((one) => one.name && !["hidden", "file", "submit"].includes(one.type));
    const store = () => {
      const kept = fields().filter((one) => !["radio", "checkbox"].includes(one.type) || one.checked).map((one) => [one.name, one.value]);
      try { window.sessionStorage.setItem(name, JSON.stringify(kept)); } catch (error) { /* Without storage the form is on this page only. */ }
    };
    try {
      const kept = JSON.parse(window.sessionStorage.getItem(name) || "[]");
      kept.forEach(([key, value]) => fields().filter((one) => one.name === key).forEach((one) => {
        if (["radio", "checkbox"].includes(one.type)) { one.checked = one.checked || one.value === value; } else if (!one.value) { one.value = value; }
      }));
    } catch (error) {
      /* Unreadable data is entered again. */
    }
    form.addEventListener("input", store);
    form.addEventListener("change", store);
    const rust = form.querySelector("[data-rust]");
    const minutes = form.querySelector("#rust_minutes");
    let began = 0;
    if (rust) {
      rust.addEventListener("click", () => {
        if (began) {
          began = 0;
          rust.textContent = "Start timer";
          store();
          return;
        }
        began = Date.now();
        rust.textContent = "Stop timer";
        const turn = () => {
          if (!began) { return; }
          minutes.value = ((Date.now() - began) / 60000).toFixed(1);
          window.setTimeout(turn, 1000);
        };
        turn();
      });
    }
  }
  if (reading && (reading.dataset.state === "waits" || reading.dataset.state === "reads")) {
    const bar = reading.querySelector("progress");
    const ask = async () => {
      try {
        const answer = await (await window.fetch(reading.dataset.reading, { headers: { Accept: "application/json" } })).json();
        bar.value = answer.share;
        if (answer.state !== "waits" && answer.state !== "reads") {
          window.location.reload();
          return;
        }
      } catch (error) {
        /* Requested again. */
      }
      window.setTimeout(ask, 300);
    };
    ask();
  }
})();
