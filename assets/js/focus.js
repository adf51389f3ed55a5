// Where the focus is: never lost to the page after an action, and one stop for a whole grid.
let last = null; // how to find again what had the focus: [selector, …] from near to far

const quoted = (text) => CSS.escape(text);

function trail(element) {
  const found = [];
  for (let at = element; at && !at.matches("main, aside, nav, body"); at = at.parentElement) {
    if (at.matches(cells.CELLS)) found.push(cells.selectorOf(at));
    if (at.id) found.push(`#${quoted(at.id)}`);
    if (at.name && at.form?.id) found.push(`#${quoted(at.form.id)} [name="${quoted(at.name)}"]`);
    if (at.matches?.("a[href]")) found.push(`a[href="${quoted(at.getAttribute("href"))}"]`);
  }
  return found;
}

document.addEventListener("focusin", (event) => {
  last = trail(event.target);
});

const seen = (element) => element?.checkVisibility?.({ visibilityProperty: true });
const stops = 'a[href], button:not([disabled]), input:not([type="hidden"]), select, textarea, summary, [tabindex]';

function land(element) {
  if (!seen(element)) return false;
  const target = element.matches(stops) ? element : element.querySelector(stops);
  if (!seen(target)) return false;
  target.focus({ preventScroll: Boolean(target.closest(".bench > header")) });
  return document.activeElement === target;
}

// After a swap: the faults if it was refused, else what had the focus, the meal that is chosen, what can be undone, or the
// page’s heading.
function settle() {
  stopOnce();
  const faults = document.getElementById("faults");
  if (faults && faults !== document.activeElement && !faults.dataset.seen) {
    faults.dataset.seen = "yes";
    faults.focus();
    faults.scrollIntoView({ block: "nearest" });
    return;
  }
  if (document.activeElement && document.activeElement !== document.body) return;
  if (!last) return;
  for (const selector of last) if (land(document.querySelector(selector))) return;
  if (land(document.querySelector('.slot > [aria-current="true"]'))) return;
  if (land(document.querySelector("main .notice.ok button"))) return;
  const heading = document.querySelector("main h1");
  if (heading) {
    heading.tabIndex = -1;
    heading.focus();
  }
}

document.addEventListener("htmx:after:swap", () => queueMicrotask(settle));

// A grid is one stop; arrows walk in it.
function stopOnce() {
  for (const { members, first } of cells.grids()) {
    const here =
      members.find((cell) => cell === document.activeElement) ??
      members.find((cell) => cell.getAttribute("tabindex") === "0") ??
      members.find((cell) => cell.getAttribute("aria-current") === "true") ??
      members.find((cell) => cell.matches(first)) ??
      members[0];
    for (const cell of members) cell.tabIndex = cell === here ? 0 : -1;
  }
}
document.addEventListener("focusin", (event) => {
  if (cells.gridOf(event.target)) stopOnce();
});
stopOnce();
if (document.getElementById("faults")) settle();

// On a phone nothing that has the focus stays under the bar at the foot or under the sheet.
document.addEventListener("focusin", (event) => {
  const box = event.target.getBoundingClientRect?.();
  const bar = document.querySelector(".shell.sheet-open .tape") ?? document.querySelector(".route");
  if (!box || !bar || bar.contains(event.target) || getComputedStyle(bar).position !== "fixed") return;
  if (box.height > innerHeight / 2) return;
  const top = bar.getBoundingClientRect().top;
  if (box.bottom > top - 8) scrollBy({ top: box.bottom - top + 24 });
});
