/* Search in the tables: rows without a typed word are hidden. */
document.addEventListener("alpine:init", () => {
  Alpine.data("finder", () => ({
    told: "",
    find(event) {
      const words = event.target.value.toLowerCase().split(/\s+/).filter((word) => word);
      let left = 0;
      document.querySelectorAll("[data-row]").forEach((row) => {
        const text = row.textContent.toLowerCase();
        row.hidden = !words.every((word) => text.includes(word));
        if (!row.hidden) { left += 1; }
      });
      document.querySelectorAll(".table-box").forEach((box) => { box.hidden = !box.querySelector("[data-row]:not([hidden])"); });
      this.told = words.length ? (left ? left + " rows" : "No results. Try a metal, a gauge or a cup.") : "";
    },
  }));
});
