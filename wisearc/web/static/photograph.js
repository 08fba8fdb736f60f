/* A photograph in progress: the page asks for its state, and loads again at the end. Two pictures of
   a comparison are wiped over each other. */
(() => {
  document.querySelectorAll("[data-wipe]").forEach((wipe) => {
    const pictures = wipe.querySelector(".wipe-pictures");
    const over = wipe.querySelector("[data-over]");
    const part = wipe.querySelector("input[type=range]");
    const draw = () => {
      pictures.classList.toggle("over", over.checked);
      part.disabled = !over.checked;
      pictures.style.setProperty("--part", part.value + "%");
    };
    over.addEventListener("change", draw);
    part.addEventListener("input", draw);
    draw();
  });
  const page = document.querySelector("[data-photograph]");
  if (!page) { return; }
  const bar = page.querySelector("progress");
  const ask = async () => {
    try {
      const answer = await (await window.fetch(page.dataset.photograph, { headers: { Accept: "application/json" } })).json();
      bar.value = answer.share;
      if (answer.state !== "waits" && answer.state !== "measures") {
        window.location.reload();
        return;
      }
    } catch (error) {
      /* Requested again. */
    }
    window.setTimeout(ask, 300);
  };
  ask();
})();
