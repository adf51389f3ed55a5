// Meals are carried from slot to slot. Keys: m or c picks the box up to move or copy, arrows walk, Enter sets it down,
// Escape lets go, Delete takes it out. Buttons: Move or Copy, then the slot. Pointer: drag; with Alt held it is a copy.
let carried = null; // { meal, how }

const form = () => document.getElementById("carry");

function show() {
  const bar = document.getElementById("carrybar"),
    box = carried && cells.withMeal(carried.meal);
  document.querySelectorAll(".carried").forEach((other) => other.classList.toggle("carried", other === box));
  box?.classList.add("carried");
  document.querySelector(".week")?.classList.toggle("carrying", Boolean(box));
  if (!bar) return;
  bar.hidden = !box;
  if (box)
    bar.textContent = 
      carried.how === "copy"
        ? inWords("Copying {meal}: choose a slot, Enter sets it down, Esc lets go", { meal: cells.nameOf(box) })
        : inWords("Moving {meal}: choose a slot, Enter sets it down, Esc lets go", { meal: cells.nameOf(box) });
}

function pick(box, how) {
  if (!box || !form()) return;
  if (how === "move" && box.querySelector(".packed")) return; // a weighed box keeps its place
  carried = { meal: cells.mealOf(box), how };
  show();
  box.focus();
}

function letGo() {
  carried = null;
  show();
}

function send(meal, act, to = "", how = "") {
  const post = form();
  post.action = `${post.dataset.week}/meals/${meal}/${act}`;
  post.elements.to.value = to;
  post.elements.how.value = how;
  carried = null;
  show();
  post.requestSubmit();
}

document.addEventListener("keydown", (event) => {
  if (event.ctrlKey || event.metaKey || event.altKey || !form()) return;
  if (event.key === "Escape" && carried) {
    letGo();
    return;
  }
  const box = cells.mealAt(event.target);
  if (!box) return;
  if (event.key === "m" || event.key === "c") pick(box, event.key === "m" ? "move" : "copy");
  if (event.key === "Delete" && !carried) send(cells.mealOf(box), "remove");
});

document.addEventListener(
  "click",
  (event) => {
    const button = event.target.closest?.("[data-carry]");
    if (button) {
      pick(document.querySelector(".box[aria-current]"), button.dataset.carry);
      return;
    }
    const cell = carried && event.target.closest?.(cells.CELLS);
    if (!cell) return;
    event.preventDefault();
    event.stopImmediatePropagation();
    if (cells.mealOf(cell) === carried.meal) letGo();
    else send(carried.meal, "move", cells.keyOf(cell), carried.how);
  },
  true,
);

document.addEventListener("dragstart", (event) => {
  const box = cells.mealAt(event.target);
  if (!box) return;
  if (box.querySelector(".packed")) {
    event.preventDefault();
    return;
  }
  event.dataTransfer.effectAllowed = "copyMove";
  event.dataTransfer.setData("text/plain", cells.nameOf(box));
  carried = { meal: cells.mealOf(box), how: "move" };
  box.classList.add("carried");
});

const under = (cell) =>
  document.querySelectorAll(cells.CELLS).forEach((other) => other.classList.toggle("under", other === cell));

document.addEventListener("dragover", (event) => {
  const cell = carried && event.target.closest?.(cells.CELLS);
  under(cell);
  if (!cell || cells.mealOf(cell) === carried.meal) return;
  event.preventDefault();
  event.dataTransfer.dropEffect = event.altKey ? "copy" : "move";
});

document.addEventListener("drop", (event) => {
  const cell = carried && event.target.closest?.(cells.CELLS);
  if (!cell) return;
  event.preventDefault();
  send(carried.meal, "move", cells.keyOf(cell), event.altKey ? "copy" : "move");
});

document.addEventListener("dragend", () => {
  under(null);
  letGo();
});

// After it was set down the keys go on from where it stands now.
let settled = "";
document.addEventListener("htmx:after:swap", () => {
  show();
  const at = new URLSearchParams(location.search),
    box = document.querySelector(".box[aria-current]");
  const now = at.has("moved") || at.has("set") ? location.search : "";
  if (now && now !== settled) box?.focus();
  settled = now;
});
