/* The times of chosen files, which a browser does not send, and files that are dropped on the form. */
document.addEventListener("DOMContentLoaded", () => {
  const form = document.querySelector("[data-drop-files]");
  if (!form) { return; }
  const picker = form.querySelector("#files");
  const folder = form.querySelector("#folder");
  form.addEventListener("submit", () => {
    const times = {};
    [picker, folder].forEach((input) => {
      Array.from(input.files).forEach((file) => { times[file.webkitRelativePath || file.name] = file.lastModified; });
      /* An empty picker would send an empty file. */
      input.disabled = input.files.length === 0;
    });
    form.elements.times.value = JSON.stringify(times);
  });
  form.addEventListener("dragover", (event) => {
    event.preventDefault();
    form.classList.add("is-over");
  });
  form.addEventListener("dragleave", () => { form.classList.remove("is-over"); });
  form.addEventListener("drop", (event) => {
    event.preventDefault();
    form.classList.remove("is-over");
    picker.files = event.dataTransfer.files;
    form.requestSubmit();
  });
  window.addEventListener("pageshow", () => { picker.disabled = folder.disabled = false; });
});
