// One writer: each change counts up what the page has typed, so that the newest of its own saves is the one that stays.
document.addEventListener(
  "input",
  (event) => {
    const edits = event.target.closest?.("form")?.elements.edit;
    if (edits) edits.value = String(Number(edits.value || 0) + 1);
  },
  true,
);

// The recipe bench: picking a found food clears the finder and puts the cursor into the new line's amount.
document.addEventListener("click", (event) => {
  const pick = event.target.closest("[data-pick]");
  if (!pick) return;
  const finder = pick.closest(".finder");
  queueMicrotask(() => {
    finder.querySelector("input").value = "";
  });
});

document.addEventListener("htmx:after:swap", ({ detail: { ctx } }) => {
  const read = ctx.sourceElement?.closest?.("[data-paste]");
  if (read && ctx.response.status < 400) {
    const details = read.closest("details"),
      pasted = details.querySelector("textarea");
    pasted.value = "";
    details.open = false;
    const near = details.closest(".component, #part-steps");
    (
      near?.querySelector(".line.waits .ask button") ??
      near?.querySelector("[data-finder]") ??
      details.querySelector("summary")
    )?.focus();
    pasted.form.dispatchEvent(new Event("input", { bubbles: true }));
  }
  number();
  const into = ctx.target;
  if (into?.id === "foods") {
    const rows = document.querySelectorAll("#foods tbody tr").length;
    document.getElementById("said").textContent = 
      rows === 1 ? inWords("1 food found.") : inWords("{count} foods found.", { count: rows });
  }
  if (into?.id?.endsWith("-found")) {
    const count = into.querySelectorAll("[data-pick], [data-pick-line]").length;
    if (count)
      document.getElementById("said").textContent =
        count === 1
          ? inWords("1 food found: arrow down to choose, Enter takes the first.")
          : inWords("{count} foods found: arrow down to choose, Enter takes the first.", { count });
  }
  const fresh = document.querySelector("input[data-new]");
  if (!fresh) return;
  fresh.removeAttribute("data-new");
  fresh.focus();
  if (fresh.value) fresh.dispatchEvent(new Event("input", { bubbles: true }));
  document.querySelectorAll(".finder .found").forEach((list) => list.remove());
});

// The figures are spoken once, when the typing pauses.
const PAUSE_MS = 1500;
let speaking = 0;
document.addEventListener("htmx:after:swap", ({ detail: { ctx } }) => {
  if (ctx.target?.id !== "live") return;
  clearTimeout(speaking);
  speaking = setTimeout(() => {
    const figures = [...document.querySelectorAll("#live > div:has(.num)")].slice(0, 2);
    const words = figures.map((figure) => figure.textContent.replace(/\s+/g, " ").trim()).join(", ");
    if (words) document.getElementById("said").textContent = inWords("A serving: {words}", { words });
  }, PAUSE_MS);
});

// Steps are counted as they stand, and know the components by their present names.
function number() {
  const steps = [...document.querySelectorAll("#steps .step")];
  steps.forEach((step, n) => {
    step.querySelector(".stepno").textContent = n + 1;
  });
  const add = document.querySelector("[data-add-step]");
  if (add)
    add.setAttribute(
      "hx-vals",
      JSON.stringify({
        after: String(steps.length),
        component: steps.at(-1)?.querySelector("[data-components]")?.value ?? "",
      }),
    );
  const parts = [...document.querySelectorAll(".component")].map((part) => {
    const id = part.querySelector('[name="component"]').value,
      used = part.querySelector(`[name="component-${id}-used"]`)?.value;
    return [used || id, part.querySelector(`[name="component-${id}-name"]`)?.value || inWords("all of it")];
  });
  for (const select of document.querySelectorAll("select[data-components]")) {
    const chosen = select.value;
    const wanted = [["", inWords("all of it")], ...parts];
    if (
      wanted.map(String).join() ===
      [...select.options]
        .map((o) => [o.value, o.textContent])
        .map(String)
        .join()
    )
      continue;
    select.replaceChildren(...wanted.map(([value, words]) => new Option(words, value, false, value === chosen)));
  }
}
// Selects of ingredients are filled as they are reached: with the lines as they stand.
function listLines(select) {
  const chosen = select.value,
    first = select.name === "swap-line" ? [["", inWords("choose an ingredient")]] : [];
  const lines = [...document.querySelectorAll(".component .line:not(.waits)")].map((line) => {
    const id = line.querySelector('[name="line"]').value;
    return [id, `${line.querySelector(".what a").textContent.trim()}, ${line.querySelector(".amount input").value}`];
  });
  select.replaceChildren(
    ...[...first, ...lines].map(([value, words]) => new Option(words, value, false, value === chosen)),
  );
}
// A long table is only sent while it is open.
document.addEventListener(
  "toggle",
  (event) => {
    const name = event.target.dataset?.remembers,
      field = name && document.querySelector(`[name="${name}"]`);
    if (!field || field.value === (event.target.open ? "1" : "")) return;
    field.value = event.target.open ? "1" : "";
    if (event.target.open) field.form.dispatchEvent(new Event("input", { bubbles: true }));
  },
  true,
);
document.addEventListener("focusin", (event) => {
  if (event.target.matches?.("select[data-components], [data-add-step]")) number();
  if (event.target.matches?.('[name="swap-line"], [name="scale-line"]')) listLines(event.target);
});

// An ingredient moves within its component, and on into the next one: Alt and arrow in its amount, or the buttons.
function move(line, up) {
  const near = up ? line.previousElementSibling : line.nextElementSibling;
  if (near) {
    if (up) near.before(line);
    else near.after(line);
  } else {
    const holders = [...document.querySelectorAll(".component .lines")],
      at = holders.indexOf(line.parentElement);
    const next = holders[at + (up ? -1 : 1)];
    if (!next) return;
    if (up) next.append(line);
    else next.prepend(line);
  }
  line.closest("form").dispatchEvent(new Event("input", { bubbles: true }));
}

document.addEventListener("click", (event) => {
  const mover = event.target.closest?.("[data-move]");
  if (mover) move(mover.closest(".line"), mover.dataset.move === "up");
  const swapper = event.target.closest?.("[data-swap-line]");
  if (swapper) {
    const select = document.querySelector('[name="swap-line"]');
    swapper.closest("details").open = false;
    if (select) {
      listLines(select);
      select.value = swapper.dataset.swapLine;
      select.dispatchEvent(new Event("input", { bubbles: true }));
      document.getElementById("part-swap").scrollIntoView({ block: "start" });
      document.querySelector('[name="swap-for"]').focus();
    }
  }
  const adds = event.target.closest?.("[data-adds]");
  if (adds) {
    const row = document.createElement("span");
    row.dataset.row = "";
    for (const [name, value] of JSON.parse(adds.dataset.adds)) {
      row.append(Object.assign(document.createElement("input"), { type: "hidden", name, value }));
    }
    document.getElementById("variants").append(row);
    adds.closest("form").dispatchEvent(new Event("input", { bubbles: true }));
  }
  const drop = event.target.closest?.("[data-drop-variant]");
  if (drop) {
    const form = drop.closest("form");
    for (const field of form.querySelectorAll(
      `#variants [name^="variant-${drop.dataset.dropVariant}-"], #variants [name="variant"][value="${drop.dataset.dropVariant}"]`,
    ))
      field.remove();
    form.dispatchEvent(new Event("input", { bubbles: true }));
  }
  const part = event.target.closest?.("[data-part]");
  if (part) {
    event.preventDefault();
    const there = document.querySelector(part.getAttribute("href"));
    parts.reveal(there);
    if (matchMedia("(max-width: 900px)").matches) return; // the part stands right below, and no keypad jumps up
    there.scrollIntoView({ block: "start" });
    there.querySelector("input:not([type=hidden]), select, button, summary")?.focus({ preventScroll: true });
  }
  const goto = event.target.closest?.("[data-goto]");
  if (goto) {
    const field =
      goto.dataset.goto === "steps"
        ? document.querySelector("[data-add-step]")
        : document.querySelector(`[name="${CSS.escape(goto.dataset.goto)}"]`);
    if (field) event.preventDefault();
    if (field) parts.reveal(field);
    field?.closest("details:not([open])")?.setAttribute("open", "");
    field?.scrollIntoView({ block: "center" });
    field?.focus();
  }
  if (event.target.closest?.("[data-print]")) print();
  for (const open of document.querySelectorAll("details.more[open]"))
    if (!open.contains(event.target)) open.open = false;
});

// In the finder: arrow keys walk the list, Enter takes the first. In an amount: Enter goes on to the next finder.
document.addEventListener("keydown", (event) => {
  const finder = event.target.closest?.(".finder");
  if (event.key === "Enter" && event.ctrlKey && event.target.matches?.(".paste textarea")) {
    event.preventDefault();
    event.target.closest(".paste").querySelector("[data-paste]").click();
    return;
  }
  if (event.key === "Escape") event.target.closest?.("details.more[open]")?.removeAttribute("open");
  if (event.altKey && (event.key === "ArrowUp" || event.key === "ArrowDown") && event.target.matches?.(".line input")) {
    event.preventDefault();
    move(event.target.closest(".line"), event.key === "ArrowUp");
    event.target.focus();
    return;
  }
  if (finder) {
    const picks = [...finder.querySelectorAll("[data-pick], [data-pick-line]")],
      at = picks.indexOf(document.activeElement);
    if (event.key === "ArrowDown" && picks.length) {
      event.preventDefault();
      picks[Math.min(at + 1, picks.length - 1)].focus();
    }
    if (event.key === "ArrowUp" && at >= 0) {
      event.preventDefault();
      (picks[at - 1] ?? finder.querySelector("input")).focus();
    }
    if (event.key === "Enter" && event.target.matches("input")) {
      event.preventDefault();
      picks[0]?.click();
    }
    if (event.key === "Escape") {
      finder.querySelector(".found")?.remove();
    }
    return;
  }
  if (event.key === "Enter" && event.target.matches?.(".line input")) {
    event.preventDefault();
    event.target.closest(".component").querySelector(":scope > .finder [data-finder]").focus();
  }
  if (event.key === "Enter" && event.target.matches?.(".steptext input")) {
    event.preventDefault();
    document.querySelector("[data-add-step]").click();
  }
});
number();
