// Keyboard: 1–9 walk the route, w opens and closes the tape, arrows move between boxes, / goes to the finder.
import { loneDigit } from "./scanner.js";

const typing = (element) => element?.matches?.("input, textarea, select, [contenteditable]");

function setTape(closed) {
  document.documentElement.classList.toggle("tape-closed", closed);
  try { localStorage.setItem("tape", closed ? "closed" : "open"); } catch { /* private mode: forget it */ }
}

const isClosed = () => document.documentElement.classList.contains("tape-closed");

try { setTape(localStorage.getItem("tape") === "closed"); } catch { /* stays open */ }

document.addEventListener("click", (event) => {
  if (event.target.closest("[data-tape-toggle]")) setTape(!isClosed());
});

function nearest(from, candidates, dx, dy) {
  const middle = (r) => [(r.left + r.right) / 2, (r.top + r.bottom) / 2];
  const [x, y] = middle(from.getBoundingClientRect());
  let best = null, bestCost = Infinity;
  for (const candidate of candidates) {
    if (candidate === from) continue;
    const [cx, cy] = middle(candidate.getBoundingClientRect());
    const along = (cx - x) * dx + (cy - y) * dy, aside = Math.abs((cx - x) * dy) + Math.abs((cy - y) * dx);
    if (along < 8) continue;
    const cost = along + aside * 4;
    if (cost < bestCost) { best = candidate; bestCost = cost; }
  }
  return best;
}

const ARROWS = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] };

document.addEventListener("keydown", (event) => {
  if (event.ctrlKey || event.metaKey || event.altKey || typing(event.target)) return;
  const stop = /^[1-9]$/.test(event.key) && document.querySelector(`.route a[data-key="${event.key}"]`);
  if (stop) { loneDigit(() => stop.click()); return; }
  if (event.key === "w") { setTape(!isClosed()); return; }
  if (event.key === "/") {
    const finder = document.querySelector("[data-finder]");
    if (finder) { event.preventDefault(); finder.focus(); finder.select(); }
    return;
  }
  const cell = event.target.closest?.("[data-cell]");
  if (cell && ARROWS[event.key]) {
    const next = nearest(cell, document.querySelectorAll("[data-cell]"), ...ARROWS[event.key]);
    if (next) { event.preventDefault(); next.focus(); }
  }
});

// On a phone the route is a strip: keep the current stage in sight.
const showStage = () => document.querySelector(".route a[aria-current]")?.scrollIntoView({ inline: "center", block: "nearest" });
document.addEventListener("htmx:after:swap", showStage);
showStage();
