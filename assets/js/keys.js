// Keyboard: 1–9 walk the route, w opens and closes the tape, arrows move between boxes, / goes to the finder.
// A keyboard-type scanner: eight or more digits faster than anybody types, then Enter. Wherever the cursor is, unless it
// stands in a field for barcodes or in a finder, the scan goes to the food; a digit typed by hand walks the route.
// The pace of the whole counts: one digit of a scan may come late where much is going on.
const PACE_MS = 60,
  GAP_MS = 250,
  ALONE_MS = 150,
  SHORTEST = 8;
let digits = "",
  first = 0,
  last = 0,
  pending = 0;

const takesScans = (element) => element?.matches?.('[name="barcode"], [data-finder]');

document.addEventListener(
  "keydown",
  (event) => {
    if (event.ctrlKey || event.metaKey || event.altKey) return;
    const now = event.timeStamp,
      goesOn = now - last < GAP_MS;
    if (/^[0-9]$/.test(event.key)) {
      digits = goesOn ? digits + event.key : event.key;
      if (digits.length === 1) first = now;
      last = now;
      if (digits.length > 1) clearTimeout(pending);
      return;
    }
    const isFast = goesOn && last - first < PACE_MS * (digits.length - 1);
    if (event.key === "Enter" && isFast && digits.length >= SHORTEST && !takesScans(event.target)) {
      event.preventDefault();
      event.stopImmediatePropagation();
      clearTimeout(pending);
      const field = event.target;
      if (field.matches?.("input") && field.value.endsWith(digits)) field.value = field.value.slice(0, -digits.length);
      location.assign(`/foods/scan?code=${digits}`);
    }
    digits = "";
  },
  true,
);

// A lone digit means a stage only once it is clear that no second one follows at a scanner's pace.
function loneDigit(act) {
  clearTimeout(pending);
  pending = setTimeout(() => {
    digits = "";
    act();
  }, ALONE_MS);
}

const TICKED = ':is([type="checkbox"], [type="radio"])';
const typing = (element) => element?.matches?.(`input:not(${TICKED}), textarea, select, [contenteditable]`);

function nearest(from, candidates, dx, dy) {
  const middle = (r) => [(r.left + r.right) / 2, (r.top + r.bottom) / 2];
  const [x, y] = middle(from.getBoundingClientRect());
  let best = null,
    bestCost = Infinity;
  for (const candidate of candidates) {
    if (candidate === from) continue;
    const [cx, cy] = middle(candidate.getBoundingClientRect());
    const along = (cx - x) * dx + (cy - y) * dy,
      aside = Math.abs((cx - x) * dy) + Math.abs((cy - y) * dx);
    if (along < 8) continue;
    const cost = along + aside * 4;
    if (cost < bestCost) {
      best = candidate;
      bestCost = cost;
    }
  }
  return best;
}

// Tests and helpers that type at once wait for this.
document.documentElement.dataset.keys = "ready";

const ARROWS = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] };

// Keys of one letter or digit can be switched off; “?” and the arrows stay.
const keys = document.getElementById("keys"),
  single = keys?.querySelector("[data-single-keys]");
try {
  if (single) single.checked = localStorage.getItem("single-keys") !== "off";
} catch {
  /* on */
}
single?.addEventListener("change", () => {
  try {
    localStorage.setItem("single-keys", single.checked ? "on" : "off");
  } catch {
    /* until the page is left */
  }
});
window.addEventListener(
  "keydown",
  (event) => {
    if (single?.checked !== false || typing(event.target) || event.ctrlKey || event.metaKey || event.altKey) return;
    if (/^[0-9a-z/]$/.test(event.key)) event.stopImmediatePropagation();
  },
  true,
);

// A form somebody typed into is not left by a digit.
const isTypedInto = () => document.querySelector("main form[data-typed]") !== null;
document.addEventListener("input", (event) => {
  const form = event.target.closest?.('main form[method="post"]');
  if (form && event.isTrusted) form.dataset.typed = "";
});
document.addEventListener("htmx:after:swap", () => {
  const saved = document.querySelector("#saved .ok");
  if (saved) saved.closest("form").removeAttribute("data-typed");
});

document.addEventListener("keydown", (event) => {
  if (event.ctrlKey || event.metaKey || event.altKey || typing(event.target)) return;
  const stop = /^[0-9]$/.test(event.key) && document.querySelector(`.route a[data-key="${event.key}"]`);
  if (stop) {
    if (isTypedInto()) document.getElementById("said").textContent = inWords("Not left: save what you typed first.");
    else loneDigit(() => stop.click());
    return;
  }
  if (event.key === "w") {
    document.dispatchEvent(new Event("tape:toggle"));
    return;
  }
  if (event.key === "?") {
    keys?.showModal();
    return;
  }
  if (event.key === "/") {
    const finder = document.querySelector("[data-finder]");
    if (finder) {
      event.preventDefault();
      finder.focus();
      finder.select();
    }
    return;
  }
  const grid = ARROWS[event.key] && cells.gridOf(event.target);
  if (grid) {
    const next = nearest(event.target, grid.members, ...ARROWS[event.key]);
    if (next) {
      event.preventDefault();
      next.focus();
    }
  }
});

// Escape leaves a field, so that a digit walks again, unless it has something to close there first.
const HOLDS = "dialog, details.more[open], .sheet-open .tape, .finder:has(.found)";
document.addEventListener("keydown", (event) => {
  if (event.key === "Escape" && typing(event.target) && !event.target.closest(HOLDS)) event.target.blur();
});

// Ctrl and s saves the form one is in, or the one that was typed into.
document.addEventListener("keydown", (event) => {
  if (event.key !== "s" || !(event.ctrlKey || event.metaKey) || event.altKey) return;
  event.preventDefault();
  const form = event.target.form ?? document.querySelector("main form[data-typed]");
  const save = [...(form?.elements ?? [])].find((element) => element.matches("button.go"));
  if (save) form.requestSubmit(save);
});

// On a phone the route is a strip: keep the current stage in sight.
const showStage = () =>
  document.querySelector(".route a[aria-current]")?.scrollIntoView({ inline: "center", block: "nearest" });
document.addEventListener("htmx:after:swap", showStage);
showStage();
