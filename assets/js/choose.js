// Several meals are chosen: x on a box, Ctrl and a click, or the button “Choose several” and clicks; a chooses all.
// Then p pins them, Delete takes them out, Escape lets go. Without a choice p pins the box the cursor is on.
const chosen = new Set();
let choosing = false;

const form = () => document.getElementById("many");

function show() {
  const bar = document.getElementById("choosebar");
  for (const box of cells.meals()) box.classList.toggle("picked", chosen.has(cells.mealOf(box)));
  if (!bar) {
    chosen.clear();
    choosing = false;
    return;
  }
  bar.hidden = !chosen.size && !choosing;
  bar.querySelector("b").textContent = 
    chosen.size === 1 ? inWords("1 meal chosen") : inWords("{count} meals chosen", { count: chosen.size });
}

function toggle(meal) {
  if (!chosen.delete(meal)) chosen.add(meal);
  show();
}

function send(act, meals) {
  if (!meals.length) return;
  const post = form();
  for (const old of post.querySelectorAll('[name="meals"]')) old.remove();
  for (const meal of meals)
    post.append(Object.assign(document.createElement("input"), { type: "hidden", name: "meals", value: meal }));
  post.elements.act.value = act;
  chosen.clear();
  choosing = false;
  show();
  post.requestSubmit();
}

function act(name) {
  if (name === "all") {
    for (const box of cells.meals()) chosen.add(cells.mealOf(box));
    show();
    return;
  }
  if (name === "none") {
    chosen.clear();
    choosing = false;
    show();
    return;
  }
  send(name, [...chosen]);
}

document.addEventListener(
  "keydown",
  (event) => {
    if (event.ctrlKey || event.metaKey || event.altKey || !form()) return;
    if (event.target.matches?.("input, textarea, select")) return;
    if (event.key === "Escape" && (chosen.size || choosing)) {
      act("none");
      return;
    }
    const box = cells.mealAt(event.target);
    if (event.key === "a") {
      choosing = true;
      act("all");
      return;
    }
    if (event.key === "x" && box) {
      toggle(cells.mealOf(box));
      return;
    }
    if (event.key === "p" && chosen.size) {
      act("pin");
      return;
    }
    if (event.key === "p" && box) {
      send(box.querySelector(".pinmark") ? "unpin" : "pin", [cells.mealOf(box)]);
      return;
    }
    if (event.key === "Delete" && chosen.size) {
      event.stopImmediatePropagation();
      act("remove");
    }
  },
  true,
);

document.addEventListener(
  "click",
  (event) => {
    const one = event.target.closest?.("[data-pin-one]"),
      here = document.querySelector(".box[aria-current]");
    if (one && here) {
      send(one.dataset.pinOne, [cells.mealOf(here)]);
      return;
    }
    const many = event.target.closest?.("[data-many]");
    if (many) {
      act(many.dataset.many);
      return;
    }
    if (event.target.closest?.("[data-choose-mode]")) {
      choosing = true;
      show();
      return;
    }
    const box = (choosing || event.ctrlKey || event.metaKey) && cells.mealAt(event.target);
    if (!box) return;
    event.preventDefault();
    event.stopImmediatePropagation();
    toggle(cells.mealOf(box));
  },
  true,
);

document.addEventListener("htmx:after:swap", show);
