// A fault goes when its field is mended: what was wrong a moment ago must not stand beside what is right now.
function mend(field) {
  const said = field.name && document.getElementById(`fault-${field.name}`);
  if (field.getAttribute("aria-invalid") !== "true" && !said) return;
  field.removeAttribute("aria-invalid");
  field.removeAttribute("aria-describedby");
  said?.remove();
  const summary = document.getElementById("faults");
  summary?.querySelector(`[data-goto="${CSS.escape(field.name)}"]`)?.closest("li").remove();
  const left = summary?.querySelectorAll("li").length ?? 0;
  if (left) summary.querySelector("h2").textContent = 
      left === 1 ? inWords("Not saved: 1 place to mend") : inWords("Not saved: {count} places to mend", { count: left });
  if (!document.querySelector('[aria-invalid="true"], .fault'))
    document.getElementById("faults")?.remove();
}

document.addEventListener("input", (event) => {
  if (event.target.matches?.("input, select, textarea")) mend(event.target);
});
document.addEventListener("change", (event) => {
  if (event.target.matches?.("select, input[type=radio], input[type=checkbox]")) mend(event.target);
});
