// Corrections: a button with data-changes writes them into its form; F2 presses the first one offered.
// data-fix-field puts the cursor where a doubtful amount is typed, ready to be weighed.
function put(form, name, value) {
  for (const field of form.querySelectorAll(`[name="${CSS.escape(name)}"]`)) {
    if (field.type === "radio" || field.type === "checkbox") field.checked = field.value === value;
    else field.value = value;
  }
}

document.addEventListener("click", (event) => {
  const button = event.target.closest("[data-changes]");
  if (button) {
    const form = button.closest("form");
    for (const [name, value] of Object.entries(JSON.parse(button.dataset.changes))) put(form, name, value);
    if (button.dataset.settles !== undefined) {
      const what = button.closest(".what");
      if (button.dataset.settles) what.querySelector("a").textContent = button.dataset.settles;
      const doubt = what.querySelector("[data-doubt]");
      const line = what.closest(".line");
      line.classList.remove("waits");
      doubt.replaceWith(...doubt.querySelectorAll('input[type="hidden"]'));
      (document.querySelector(".line.waits .ask button") ?? line.querySelector(".amount input")).focus();
    }
    if (button.dataset.names !== undefined) {
      const named = document.querySelector(`#line-${CSS.escape(button.dataset.line)} .what a`);
      if (named) named.textContent = button.dataset.names;
    }
    if (button.dataset.empties !== undefined)
      button
        .closest(".proposal")
        .replaceChildren(
          Object.assign(document.createElement("p"), {
            textContent: inWords("Taken over; the figures above follow. Undo brings the old ones back."),
            className: "ok",
          }),
        );
    form.dispatchEvent(new Event("input", { bubbles: true }));
    return;
  }
  const fix = event.target.closest("[data-fix-field]");
  if (!fix) return;
  const field = document.querySelector(`[name="${CSS.escape(fix.dataset.fixField)}"]`);
  if (!field) return;
  const measure = field.closest(".line")?.querySelector("select");
  if (measure) measure.value = "weighed";
  field.value = fix.dataset.fixText ?? "";
  field.placeholder = "weigh it: g";
  parts.reveal(field);
  field.focus();
  field.setSelectionRange?.(0, 0);
  field.scrollIntoView({ block: "center" });
});

document.addEventListener("keydown", (event) => {
  if (event.key !== "F2") return;
  const button = document.querySelector('[data-press="F2"]');
  if (button) {
    event.preventDefault();
    button.click();
  }
});
