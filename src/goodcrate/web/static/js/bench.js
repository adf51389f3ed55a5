// The recipe bench: picking a found food clears the finder and puts the cursor into the new line's amount.
document.addEventListener("click", (event) => {
  const pick = event.target.closest("[data-pick]");
  if (!pick) return;
  const finder = pick.closest(".finder");
  queueMicrotask(() => { finder.querySelector("input").value = ""; });
});

document.addEventListener("htmx:after:swap", () => {
  const pasted = document.querySelector(".paste[open] textarea");
  if (pasted?.dataset.sent) {
    pasted.value = "";
    delete pasted.dataset.sent;
    pasted.closest("details").open = false;
    pasted.form.dispatchEvent(new Event("input", { bubbles: true }));
  }
  const fresh = document.querySelector("input[data-new]");
  if (!fresh) return;
  fresh.removeAttribute("data-new");
  fresh.focus();
  if (fresh.value) fresh.dispatchEvent(new Event("input", { bubbles: true }));
  document.querySelectorAll(".finder .found").forEach((list) => list.remove());
});

document.addEventListener("click", (event) => {
  const area = event.target.closest?.("[data-paste]")?.closest(".paste").querySelector("textarea");
  if (area) area.dataset.sent = "yes";
});

// In the finder: arrow keys walk the list, Enter takes the first. In an amount: Enter goes on to the next finder.
document.addEventListener("keydown", (event) => {
  const finder = event.target.closest?.(".finder");
  if (finder) {
    const picks = [...finder.querySelectorAll("[data-pick]")], at = picks.indexOf(document.activeElement);
    if (event.key === "ArrowDown" && picks.length) { event.preventDefault(); picks[Math.min(at + 1, picks.length - 1)].focus(); }
    if (event.key === "ArrowUp" && at >= 0) { event.preventDefault(); (picks[at - 1] ?? finder.querySelector("input")).focus(); }
    if (event.key === "Enter" && event.target.matches("input")) { event.preventDefault(); picks[0]?.click(); }
    return;
  }
  if (event.key === "Enter" && event.target.matches?.(".line input")) {
    event.preventDefault();
    event.target.closest(".component").querySelector("[data-finder]").focus();
  }
});
