/* The cut in space, rotated by drag and by the arrow keys. The view goes to the server, which
   draws it. Nothing is calculated here. One request at a time, so that a fast user never gets
   ahead of the drawing. */
const TURN_A_PX = 0.5;
const STEP = 10;
let asked = null;
let busy = false;

function picture() { return document.querySelector("[data-space]"); }

async function draw() {
  if (busy || !asked) { return; }
  busy = true;
  while (asked) {
    const place = picture();
    const url = new URL(place.dataset.space, window.location.href);
    url.searchParams.set("turn", asked.turn);
    url.searchParams.set("tilt", asked.tilt);
    asked = null;
    try {
      const response = await window.fetch(url, { headers: { Accept: "image/svg+xml" } });
      if (response.ok) { place.querySelector(".cut-picture").innerHTML = await response.text(); }
    } catch (error) {
      asked = null;
    }
  }
  busy = false;
}

function turn(turned, tilted) {
  const place = picture();
  const next = {
    turn: (((Number(place.dataset.turn) + turned) % 360) + 360) % 360,
    tilt: Math.min(85, Math.max(0, Number(place.dataset.tilt) + tilted)),
  };
  place.dataset.turn = next.turn;
  place.dataset.tilt = next.tilt;
  asked = next;
  draw();
}

document.addEventListener("keydown", (event) => {
  const by = { ArrowLeft: [-STEP, 0], ArrowRight: [STEP, 0], ArrowUp: [0, STEP], ArrowDown: [0, -STEP] }[event.key];
  if (!by || !event.target.classList || !event.target.classList.contains("cut-picture")) { return; }
  event.preventDefault();
  turn(by[0], by[1]);
});

document.addEventListener("pointerdown", (event) => {
  const place = event.target.closest && event.target.closest(".cut-picture");
  if (!place || event.button) { return; }
  let x = event.clientX;
  let y = event.clientY;
  const moved = (move) => {
    turn((move.clientX - x) * -TURN_A_PX, (move.clientY - y) * TURN_A_PX);
    x = move.clientX;
    y = move.clientY;
  };
  const done = () => {
    window.removeEventListener("pointermove", moved);
    window.removeEventListener("pointerup", done);
    window.removeEventListener("pointercancel", done);
  };
  window.addEventListener("pointermove", moved);
  window.addEventListener("pointerup", done);
  window.addEventListener("pointercancel", done);
});
