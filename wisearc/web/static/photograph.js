/* A photograph in progress: the page asks for its state, and loads again at the end. */
(() => {
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
