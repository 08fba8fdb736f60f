/* Counts in place: one more or one less is sent immediately, and the returned count is shown.
   Without script the form does the same with a page load. */
document.addEventListener("submit", async (event) => {
  const form = event.target;
  if (!form.matches("[data-count]") || !event.submitter) { return; }
  event.preventDefault();
  const fields = new FormData(form);
  fields.set("more", event.submitter.value);
  const told = document.querySelector("[data-told]");
  const shown = form.querySelector("output");
  try {
    const response = await window.fetch(form.action, { method: "POST", body: fields, headers: { Accept: "application/json" } });
    const answer = await response.json();
    told.textContent = answer.error || "";
    told.classList.toggle("field-error", Boolean(answer.error));
    if (response.ok) {
      shown.textContent = answer.count;
      form.closest("li").classList.toggle("gone", answer.count === 0);
    }
  } catch (error) {
    told.textContent = "Not saved: no connection to Wise Arc. Try again later.";
    told.classList.add("field-error");
  }
});
